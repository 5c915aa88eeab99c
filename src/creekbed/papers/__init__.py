"""What leaves on paper or as files, in open formats."""
