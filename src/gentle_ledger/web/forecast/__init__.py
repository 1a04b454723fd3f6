"""When each text leaves, and why not sooner."""
