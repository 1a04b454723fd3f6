"""What can be done to a round; each is a command for `app.edit`."""
