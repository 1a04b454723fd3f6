"""What the texts weigh over HTTP."""
