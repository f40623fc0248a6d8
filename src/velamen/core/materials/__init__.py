"""Materials: kinds of what is sewn on, under, over and with, their fields declared once, their rows as data.

Read first: records.py (the kinds), library.py (shipped rows and a shop's own over them). All rows are made up.
"""
