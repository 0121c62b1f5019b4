"""One function for each thing a member does: it opens the transaction and calls store, formats and core."""
