"""An ink of the device is called so, as in the field; 'printed' could be any."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("conditions", "0008_smallest_dot")]
    operations = [migrations.RenameField("condition", "printed_inks", "device_inks")]
