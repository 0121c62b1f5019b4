"""Files in and out. Pure: an object in, bytes out, and back; no disk, no clock."""
