"""From a photograph of a plate to measurements: arrays of pixels in, arrays of figures out.

Pixels are (x, y) with (0, 0) the centre of the top left one, after the picture was turned upright. Millimetres are the
plate's, x to the right and y up, also for the back, which is seen mirrored.

Tuned constants end in their unit: `_MM` on the plate, `_PX` of the picture, `_SHARE` of what their comment says; what
has no unit is a ratio. Where nothing else is said they were set on photographs of the bench (`rezept.bench.camera`)
of 6 to 25 px/mm: tilted up to 35 degrees, light falling off by up to 30 %, blurred by up to 1.5 px, noise of up to
0.012 of full scale, JPEG of quality 60 and better, k1 of -0.01 to 0.03, ground of L* 38 to 82. Beyond that they are not
known to hold.
"""
