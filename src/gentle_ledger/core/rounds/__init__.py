"""A whole round: all its rows computed, their marks, and the slip of one of them."""
