"""The columns of a round: what each is for, what it comes to, and how its values are written."""
