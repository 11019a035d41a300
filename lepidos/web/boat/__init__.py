"""The pages on which devices are let in, and what a guest sees."""
