"""What the interface does about columns."""
