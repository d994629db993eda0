"""Many films, unattended: a folder by a recipe, on all cores of this machine."""
