"""What a cell can be, and how each kind is read: words, figures, money, days, phone numbers."""
