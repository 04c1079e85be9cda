"""From measurements to a profile, and how good it is: characterize, linearize, build, judge, report, drift."""
