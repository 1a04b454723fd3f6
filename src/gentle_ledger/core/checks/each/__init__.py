"""The checks, one a module; what stands in this folder is made, and nothing else need know of it."""
