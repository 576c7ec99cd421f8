"""The recipes the application comes with: how the usual pieces of work are done.

Common practice, no source; the shop lays its own over them. Minutes are for a usual machine; a shop's own times
correct them. What one sees stands in recipe_library_surfaces.py, what makes old parts do again in
recipe_library_recondition.py, repair and software in recipe_library_inside.py.
"""

from core.catalogue.recipe_library_inside import REASSEMBLE, REPAIR, SOFTWARE, UPGRADE
from core.catalogue.recipe_library_recondition import RECONDITION
from core.catalogue.recipe_library_surfaces import CLEAN, REFINISH, WHITEN
from core.catalogue.recipes import Recipe

COMES_WITH: tuple[Recipe, ...] = (
    *CLEAN,
    *RECONDITION,
    *REPAIR,
    *WHITEN,
    *REFINISH,
    *UPGRADE,
    *SOFTWARE,
    *REASSEMBLE,
)
