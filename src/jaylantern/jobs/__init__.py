"""Long work with progress and cancel."""
