"""Talking on the network as the open protocols have it: packets, and looking for who is there."""
