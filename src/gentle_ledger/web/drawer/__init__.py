"""The drawer of wordings over HTTP."""
