"""The wordings of a round over HTTP."""
