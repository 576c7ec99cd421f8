"""What the day has done in the background."""

from stations.day import planning
from stations.queue.services import kinds

kinds.add(planning.KIND)(planning.make)
