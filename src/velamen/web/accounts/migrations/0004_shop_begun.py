import django.utils.timezone
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [('accounts', '0003_people')]

    operations = [
        migrations.AddField(
            model_name='shop',
            name='begun',
            field=models.DateTimeField(auto_now_add=True, default=django.utils.timezone.now),
            preserve_default=False,
        ),
        migrations.AddField(
            model_name='shop',
            name='begun_from',
            field=models.CharField(db_index=True, default='', max_length=45),
        ),
    ]
