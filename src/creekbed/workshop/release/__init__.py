"""Ready for the next renter: the release check and the tag."""
