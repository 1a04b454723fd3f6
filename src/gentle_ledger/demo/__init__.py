"""Saltmarsh Quay, a made-up tidal harbour in Nova Scotia: its sheets, and the rounds of the demo."""
