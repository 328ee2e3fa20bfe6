"""One student: everything that is kept of them, as far as whoever asks may see it."""
