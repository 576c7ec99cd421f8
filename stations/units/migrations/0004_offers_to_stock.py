"""Sellers and offers need no unit: their tables go to the stock, with all that is in them."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("units", "0003_part_offers")]

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[
                migrations.AlterModelTable("partseller", "stock_partseller"),
                migrations.AlterModelTable("partoffer", "stock_partoffer"),
            ],
            state_operations=[
                migrations.DeleteModel("PartOffer"),
                migrations.DeleteModel("PartSeller"),
            ],
        ),
    ]
