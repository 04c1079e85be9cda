"""The inverse: Lab to inks, with a black policy and ink limits."""
