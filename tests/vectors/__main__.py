"""`python -m tests.vectors` writes the shared values anew."""

from tests.vectors import write

write()
