"""People over HTTP: for now those who asked for no more texts."""
