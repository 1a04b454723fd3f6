"""The message as written once, with `{Column name}` fields in it."""
