"""The web application: thin views over the core; no computation of stitches here."""
