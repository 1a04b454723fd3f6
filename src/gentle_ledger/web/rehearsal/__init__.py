"""Rehearsals over HTTP."""
