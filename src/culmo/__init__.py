"""Culmo: plans, predicts, records and compares a watercolour painter's mixing charts."""

__version__ = "0.1.0"
