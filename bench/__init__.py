"""Measurements, run by hand with ``python -m bench.core`` and ``python -m bench.desk``; no test asserts a time."""
