"""What the interface does about help."""
