"""Music cut to a length: what is heard of its rhythm and its sound, its beats and bars, which places of it are
alike, the way through it that is as long as wished, and the folds set to the sample."""
