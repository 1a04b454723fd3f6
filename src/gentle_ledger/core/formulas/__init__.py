"""The formula language: OpenFormula (OASIS ODF 1.3 part 4) over the cells of one row."""
