"""Practise: drills, hidden faults and challenges, with a show and without one."""
