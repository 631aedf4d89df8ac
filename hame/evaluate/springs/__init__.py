"""Springs: rows of joints that swing about how they are keyed."""
