"""The plan of a day: who does what when, so that most is released for the minutes there are."""


class DayPlanError(ValueError):
    """What is wrong with what was asked, in words."""
