"""The stand-in carrier: a small server of its own with its own data. It imports nothing of the program."""
