"""One router a noun."""
