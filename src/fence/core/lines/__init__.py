"""Lines: ways out of what is wrong with the cable, what to bring, where things stand on the
picture."""
