"""The Network step: desk, boxes, ports, what to type there, what is found there."""
