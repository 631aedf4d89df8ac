"""Somebody who goes along a way: from footfalls and the way of the mass to the channel values of a rig."""
