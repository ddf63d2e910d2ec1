"""Kinds of photograph become data; the present ones are the seed."""

import django.db.models.deletion
from django.db import migrations, models


SEED = [
    {'key': 'side_out', 'name': 'side, outer', 'position': 10, 'how': 'Laces out, shoe on the plain stand, camera level with its side; bench card in the same plane.', 'one_sided': True, 'sketch': 'side'},
    {'key': 'top', 'name': 'from above', 'position': 20, 'how': 'From straight above; toe and heel in the frame, bench card beside it.', 'sketch': 'top'},
    {'key': 'rear', 'name': 'from behind', 'position': 30, 'how': 'Heel to the camera, level with the collar; bench card in the plane of the heel.', 'sketch': 'rear'},
    {'key': 'sole', 'name': 'sole', 'position': 40, 'how': 'Sole up, flat on the table; bench card beside it.', 'sketch': 'sole'},
    {'key': 'size_tag', 'name': 'size tag', 'position': 50, 'how': 'Close, sharp on the print, light from the side so that it does not glare. No card needed.', 'sketch': 'tag', 'printed': True, 'codes': True},
    {'key': 'box_label', 'name': 'box, label end', 'position': 60, 'how': 'Square to the end of the box, label sharp; bench card on the same face.', 'sketch': 'box', 'printed': True, 'codes': True, 'codes_at': 'box.scanned', 'feet': False, 'card_gap_mm': 0.7},
    {'key': 'box_lid', 'name': 'box, inside the lid', 'position': 70, 'how': 'Lid upside down on the table, from straight above; stamp and sticker sharp.', 'sketch': 'box', 'printed': True, 'feet': False, 'card_gap_mm': 0.7},
    {'key': 'uv_side', 'name': 'side, outer, under UV', 'position': 80, 'how': 'Dark room, lamp from the side, no card. Never look into the lamp: UV-blocking glasses, shortest time, follow the lamp’s own sheet.', 'sketch': 'side', 'one_sided': True, 'ultraviolet': True, 'caution': 'UV lamp: never into eyes or on skin; UV-blocking glasses; shortest time; follow the lamp’s own sheet.'},
]


def seed(apps, _schema):
    view = apps.get_model("library", "View")
    for given in SEED:
        view.objects.get_or_create(key=given["key"], defaults=given)


class Migration(migrations.Migration):

    dependencies = [
        ('library', '0007_measure_names'),
    ]

    operations = [
        migrations.CreateModel(
            name='View',
            fields=[
                ('key', models.SlugField(max_length=40, primary_key=True, serialize=False)),
                ('name', models.CharField(max_length=60)),
                ('position', models.PositiveSmallIntegerField(help_text='In working order, on the shot list')),
                ('feet', models.BooleanField(default=True, help_text='One of either foot; else there is one a pair')),
                ('one_sided', models.BooleanField(default=False, help_text='Left and right show as mirror images, toe to either side')),
                ('ultraviolet', models.BooleanField(default=False)),
                ('printed', models.BooleanField(default=False, help_text='Print is compared: both pictures are turned level, cut alike')),
                ('codes', models.BooleanField(default=False, help_text='Barcodes are looked for')),
                ('codes_at', models.CharField(blank=True, help_text='The place that its barcodes are read for', max_length=30)),
                ('close_up', models.BooleanField(default=False, help_text='A part fills the picture: no card needed, no shoe sought')),
                ('card_gap_mm', models.FloatField(default=4.0, help_text='How far the card may lie from what is measured, standard')),
                ('how', models.CharField(blank=True, help_text='What to show, and how', max_length=300)),
                ('sketch', models.CharField(default='side', max_length=20)),
                ('laid_on', models.CharField(choices=[('features', 'what is found again on both'), ('outline', 'its outline'), ('corners', 'four corners that a person clicks'), ('landmarks', 'three places that a person clicks')], default='features', max_length=10)),
                ('caution', models.CharField(blank=True, max_length=300)),
            ],
            options={
                'ordering': ['position', 'key'],
            },
        ),
        migrations.RemoveConstraint(
            model_name='checkpoint',
            name='measured_checkpoint_has_view_and_foot',
        ),
        migrations.AlterField(
            model_name='checkpoint',
            name='view',
            field=models.CharField(blank=True, help_text='Key of the kind of photograph', max_length=40),
        ),
        migrations.AddConstraint(
            model_name='checkpoint',
            constraint=models.CheckConstraint(condition=models.Q(models.Q(('measure', ''), models.Q(models.Q(('view', ''), _negated=True), ('paper', '')), _connector='OR'), models.Q(('foot', ''), models.Q(('view', ''), _negated=True), _connector='OR')), name='measured_checkpoint_has_a_view'),
        ),
        migrations.AddField(
            model_name='view',
            name='release',
            field=models.ForeignKey(blank=True, help_text='Empty: of every guide', null=True, on_delete=django.db.models.deletion.CASCADE, related_name='views', to='library.release'),
        ),
        migrations.AddConstraint(
            model_name='view',
            constraint=models.CheckConstraint(condition=models.Q(('card_gap_mm__gte', 0)), name='card_gap_not_negative'),
        ),
        migrations.RunPython(seed, migrations.RunPython.noop),
    ]
