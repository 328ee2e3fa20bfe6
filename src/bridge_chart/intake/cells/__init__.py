"""What a cell, a name, a finding is."""
