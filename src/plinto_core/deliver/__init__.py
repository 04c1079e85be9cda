"""What leaves the house: separations, films, contact negatives, hard proofs, and the sheet that says how."""
