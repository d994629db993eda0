"""A render on all cores: what is asked for, the pool of processes, what each of them does."""
