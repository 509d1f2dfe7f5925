"""What the designer may have meant: proposals from fitted surfaces and their uncertainties. Nothing is changed here."""
