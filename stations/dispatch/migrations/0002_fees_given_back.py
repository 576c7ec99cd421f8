"""What a channel gave back of its fee stands on the sale from now on: it is summed from the refunds made before."""

from django.db import migrations
from django.db.models import Sum


def sum_up(apps, schema_editor):
    sale, refund = apps.get_model("selling", "Sale"), apps.get_model("dispatch", "Refund")
    for pk, back in refund.objects.order_by().values_list("sale").annotate(sum=Sum("fee_back")):
        sale.objects.filter(pk=pk).update(fee_back=back)


class Migration(migrations.Migration):
    dependencies = [("dispatch", "0001_initial"), ("selling", "0013_fees_kept")]

    operations = [migrations.RunPython(sum_up, migrations.RunPython.noop)]
