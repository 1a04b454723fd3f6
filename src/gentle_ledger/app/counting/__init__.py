"""Counting the rows of a round in a process of its own, so that it delays no key and no hand-over."""
