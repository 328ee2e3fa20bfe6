"""Files that wait: looked at, gone through, remembered, typed."""
