"""Values: settings matched by rules, with reasons, or a person's own.

Read first: engine.py (rules as data, and their order of precedence), value.py (one value). rules/ holds the rules of
what is shipped; a construction may have its own beside its module. traits.py says what of a brief they may ask for.

trait    something known that a rule may look at       measure   what several settings measure alike: "pull"
matched  worked out by rules                           own       typed by a person
"""
