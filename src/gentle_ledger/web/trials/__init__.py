"""Trials over HTTP: a row's real text to a number of the clerk's own."""
