"""Whose plans go by what the bank knows: what a model has, and what is known to fail."""

from collections.abc import Callable

from stations.common.registry import Registry

# Told, in the same transaction, that machines may be tested otherwise from now on.
otherwise: Registry[Callable[[], None]] = Registry("who plans tests by the model bank")


def tested_otherwise() -> None:
    for told in otherwise.values():
        told()
