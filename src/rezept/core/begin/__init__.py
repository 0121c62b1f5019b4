"""Where a trial begins: what is usual, what the book knows nearby, and the range to test around it."""
