"""What a person keeps of the desk: keys of their own, groups of controls, and the like."""
