"""A limp body: falls by an engine for rigid bodies, from a pose and its speeds, within the ranges of its joints."""
