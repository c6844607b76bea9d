"""Getting on: who may use a Fence that others can reach, and what each may do."""
