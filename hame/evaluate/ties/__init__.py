"""Ties: what carries a control, and where the end of a limb is planted, worked into the channel values that play.

A control is placed in a frame: at rest the one that its rig gives it. While it
belongs to something, the frame goes along with that; while it is planted, its
place stays. Either way the outcome is channel values as the rig's program reads
them, so that everything that takes values (drags, matches, measures, files)
takes ties without knowing of them.

Nothing is carried from frame to frame. What has to be known of other frames is
known of a few: how a control lay to its owner where it came to it, where a limb
was when it was planted, how far from its keys when it was let go. These are
worked out first, along the line of time and in the order in which controls
carry each other, and any frame follows from them alone.

``links`` says what a control with ties is, ``plan`` what ties what in a scene
and in which order, ``buffer`` holds the rows of one call, ``passage`` works out
one control over a run of them, ``working`` all of it; ``stage`` is the stage of
evaluation, and ``back`` its way back to the keys.
"""
