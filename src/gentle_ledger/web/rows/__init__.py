"""What the interface does about rows."""
