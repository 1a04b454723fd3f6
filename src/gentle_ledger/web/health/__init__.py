"""How the program is, for whoever runs it."""
