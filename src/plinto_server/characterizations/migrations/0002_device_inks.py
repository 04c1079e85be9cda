"""An ink of the device is called so, as in the field; 'printed' could be any."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("characterizations", "0001_steps")]
    operations = [migrations.RenameField("characterization", "printed_inks", "device_inks")]
