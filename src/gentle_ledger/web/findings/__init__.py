"""Findings over HTTP: what is done about them at one press."""
