"""The work between store and pages: saving with its preview, marks, what runs beside the pages.

No Flask here: pages, commands and tests call the same.
"""
