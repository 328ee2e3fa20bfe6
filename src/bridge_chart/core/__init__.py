"""Every calculation: arrays in, frozen results out. Standard library, NumPy and SciPy only.

Missing values are NaN and never counted; the caller hands on how many there were.
"""
