"""Voice detectors behind one small protocol: samples in, probability per frame out."""
