"""Edits: named functions that take a show and give another one. The stub beside this file is the
list of them all.

A preview is an edit that is not saved. Every function raises ``EditError`` with a sentence for the
person, and never leaves a show half changed.
"""

import lazy_loader

# a command needs one edit or none; the list is what type checkers read as well
__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
