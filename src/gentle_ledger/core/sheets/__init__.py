"""Bytes of a spreadsheet to a Sheet and back."""
