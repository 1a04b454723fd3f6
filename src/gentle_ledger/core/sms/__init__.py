"""Alphabet and parts of a text, by 3GPP TS 23.038 and TS 23.040."""
