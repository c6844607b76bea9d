"""The small types everything is said in: slots and addresses, fixture types, fixtures and shows,
free space."""
