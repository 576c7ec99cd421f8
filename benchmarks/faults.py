"""The next best action for 40 suspects and 60 actions, against the plain sums in numpy.

.venv/bin/python -m benchmarks.faults
"""

import numpy as np

from benchmarks.bids import median
from core.bench.suspects import Action, Suspect, after, next_actions, priors

SUSPECTS, ACTIONS = 40, 60


def main() -> None:
    dice = np.random.default_rng(1)
    suspects = [Suspect(f"s{n}", f"suspect {n}", float(dice.uniform(1, 9))) for n in range(SUSPECTS)]
    shows = dice.uniform(0.02, 0.98, (ACTIONS, SUSPECTS))
    actions = [
        Action(f"a{n}", f"action {n}", "yes", "no", 5.0, {s.code: float(c) for s, c in zip(suspects, row, strict=True)})
        for n, row in enumerate(shows)
    ]
    now = priors(suspects)

    def plain() -> None:
        """The least there is to it: the expected loss of doubt of every action."""
        p = np.array(now)
        yes = shows * p
        no = (1 - shows) * p
        for joint in (yes, no):
            posterior = joint / joint.sum(axis=1, keepdims=True)
            (joint.sum(axis=1) * (posterior * np.log2(posterior)).sum(axis=1)).sum()

    bare = median(plain)
    asked = median(lambda: next_actions(suspects, now, actions))
    told = median(lambda: after(suspects, now, actions[0], True))
    print(f"{SUSPECTS} suspects, {ACTIONS} actions; plain numpy sums of the same size: {bare * 1000:.2f} ms")
    print(f"next best action  {asked * 1000:6.2f} ms   {asked / bare:5.1f} times the plain sums")
    print(f"Bayes on a result {told * 1000:6.2f} ms   {told / bare:5.1f}")


if __name__ == "__main__":
    main()
