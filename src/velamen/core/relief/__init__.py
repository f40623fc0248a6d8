"""Height and light: how high what is sewn and laid stands, and how it catches the light. One model for all pictures.

relief      heights of a whole build on a grid, as it lies at a row, out of those in plan/heights.py
light       heights lit from the upper left          surface     what a base is, and its fine relief

The browser has heights and light again in static/velamen/relief.js, with the same constants and the same steps,
since it draws while it sews; tests/browser/test_relief.py holds one against the other.
"""
