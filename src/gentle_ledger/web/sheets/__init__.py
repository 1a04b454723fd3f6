"""What the interface does about sheets."""
