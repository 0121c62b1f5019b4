"""Work in processes of its own: programs that are streamed, and what one worker does one after the other."""
