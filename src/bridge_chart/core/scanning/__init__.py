"""Every measure, group and yardstick at once, with false discoveries held down."""
