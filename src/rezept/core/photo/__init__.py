"""From a photograph of a plate to measurements: arrays of pixels in, arrays of figures out.

Pixels are (x, y) with (0, 0) the centre of the top left one, after the picture was turned upright. Millimetres are the
plate's, x to the right and y up, also for the back, which is seen mirrored.
"""
