"""What the interface does about rounds."""
