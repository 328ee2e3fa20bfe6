"""How students moved between sittings."""
