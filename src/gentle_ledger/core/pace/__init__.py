"""When the next text may leave, and why not sooner."""
