"""Planning the network, ways out of what is wrong with it, what is typed at a box, what was found
there."""
