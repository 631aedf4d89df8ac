"""How somebody goes along a way: from a line on the ground and a pace to footfalls, and to how the mass goes over them.

Pure functions of numbers: no clip, no rig, no database. Places on the ground are (x, z) in metres, headings radians
about the upright from +z towards +x, times frames.
"""
