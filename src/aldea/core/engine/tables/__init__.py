"""Where each field stands in the flat arrays of a compiled plan and of a run's state.

A module a stage of the scan: the columns of its tables, the tables, and a fresh state of them.
"""
