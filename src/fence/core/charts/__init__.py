"""Charts of fixture types as people write them: reading, writing, wordings, and remarks on a chart."""
