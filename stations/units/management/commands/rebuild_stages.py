from django.core.management.base import BaseCommand

from stations.common import clock
from stations.units.models import Unit
from stations.units.stages import apply, unit_statuses

PAGE = 500


class Command(BaseCommand):
    help = "Work every unit's stage out anew and say which column had been wrong; --check only tells."

    def add_arguments(self, parser):
        parser.add_argument("--check", action="store_true", help="write nothing; end with an error if any differs")

    def handle(self, *args, check=False, **options):
        wrong = total = last = 0
        while True:
            units = list(Unit.objects.filter(pk__gt=last).order_by("pk").select_related("lot", "line", "model")[:PAGE])
            if not units:
                break
            last, total = units[-1].pk, total + len(units)
            worked_out = unit_statuses(units)
            for unit in units:
                if check and unit.again_on and unit.again_on <= clock.today():
                    # Worked out anew as soon as somebody looks: it does not claim to be right.
                    continue
                changed = apply(unit, worked_out[unit.pk])
                if changed:
                    wrong += 1
                    self.stdout.write(
                        f"{unit.tag}: {', '.join(f'{k} {v}' for k, v in changed.items() if k != 'stage_since')}"
                    )
                    if not check:
                        Unit.objects.filter(pk=unit.pk).update(**changed)
        self.stdout.write(f"{total} units, {wrong} {'differ' if check else 'put right'}.")
        if check and wrong:
            raise SystemExit(1)
