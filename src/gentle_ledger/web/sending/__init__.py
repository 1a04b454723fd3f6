"""What the interface does about sending."""
