"""A round's set-up as one model, to and from TOML."""
