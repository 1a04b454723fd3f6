"""How a browser is let in."""
