"""What is done to a voice before it is mixed: what is heard of it once, and its treatment, window by window."""
