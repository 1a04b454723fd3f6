"""The look over HTTP: reading the finished texts before they go."""
