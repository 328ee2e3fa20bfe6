"""Long work, gone through by workers of their own beside the web server."""
