"""The worker that hands texts over at the pace, and the lines it uses."""
