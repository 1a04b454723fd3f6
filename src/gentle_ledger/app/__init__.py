"""The use cases, between the web and the store."""
