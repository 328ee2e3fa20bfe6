"""The only door to figures of students whom the asker may not see."""
