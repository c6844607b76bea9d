"""The job itself: words of the field, edits, rules, layout. No interface, no database, no clock, no
files."""
