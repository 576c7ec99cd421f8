"""What was sold so far was sold under the terms as they stand: from now on each sale keeps its own."""

from django.db import migrations


def keep(apps, schema_editor):
    terms = apps.get_model("dispatch", "SaleTerms").objects.first()
    sales = apps.get_model("selling", "Sale").objects
    if terms is None:
        # Nobody looked at them yet: those that a shop begins with are made when one is asked for.
        terms = apps.get_model("dispatch", "SaleTerms")()
    for grade in sales.order_by().values_list("grade", flat=True).distinct():
        days = getattr(terms, f"warranty_{grade.lower()}", 0) if grade else 0
        sales.filter(grade=grade).update(warranty_days=days, withdrawal_days=terms.withdrawal)


class Migration(migrations.Migration):
    dependencies = [("dispatch", "0002_owners_paid"), ("selling", "0014_what_was_promised")]

    operations = [migrations.RunPython(keep, migrations.RunPython.noop)]
