"""HTTP: parse, one call, return. No rule and no sum lives here."""
