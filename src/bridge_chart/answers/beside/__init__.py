"""What stands beside answers: what can be asked, groups, saved questions, find."""
