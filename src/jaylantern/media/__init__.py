"""Everything that opens a media file: probe, decode, encode, picture."""
