"""Every outing becomes a night and keeps its number; plans become planned runs and keep theirs, so that addresses still open.

What was gathered becomes runs noted by hand, in nights of which nobody said where. What was deleted stays deleted and can be brought
back. The old tables go.
"""

from django.db import migrations

OWNED = "owner_id, created_at, updated_at, deleted_at"
OLD_OWNED = ", ".join(f"o.{one}" for one in OWNED.split(", "))
# Nights that plans, trips and earlier nights speak of, each once, unless an outing is one already.
MORE_NIGHTS = """
    WITH spoken AS (
        SELECT owner_id, spot_id, night AS date, created_at FROM before_nights.plans_plan
        UNION ALL
        SELECT t.owner_id, n.spot_id, t.first_night + n.number, t.created_at
        FROM before_nights.trips_tripnight n JOIN before_nights.trips_run_of_nights t ON t.id = n.trip_id
        UNION ALL
        SELECT owner_id, NULL, night, created_at FROM before_nights.gathered_session
    )
    INSERT INTO nights_night (owner_id, name, created_at, updated_at, spot_id, date, targets, ticked, forgotten)
    SELECT s.owner_id, left(coalesce(p.name || ', ' || spot.name || ', ', '') || s.date, 120), min(s.created_at), min(s.created_at),
           s.spot_id, s.date, '[]', '[]', '{}'
    FROM spoken s LEFT JOIN grounds_spot spot ON spot.id = s.spot_id LEFT JOIN grounds_place p ON p.id = spot.place_id
    WHERE NOT EXISTS (
        SELECT 1 FROM nights_night n WHERE n.deleted_at IS NULL
        AND n.owner_id = s.owner_id AND n.date = s.date AND n.spot_id IS NOT DISTINCT FROM s.spot_id
    )
    GROUP BY s.owner_id, s.spot_id, s.date, p.name, spot.name
"""
SAME_NIGHT = "n.deleted_at IS NULL AND n.owner_id = o.owner_id AND n.spot_id IS NOT DISTINCT FROM"
STEPS = (
    f"""INSERT INTO nights_night (id, name, {OWNED}, spot_id, date, targets, ticked, forgotten)
        SELECT id, name, {OWNED}, spot_id, night, targets, ticked, forgotten FROM before_nights.trips_outing""",
    "INSERT INTO nights_night_rigs (night_id, rig_id) SELECT outing_id, rig_id FROM before_nights.trips_outing_rigs",
    "SELECT setval(pg_get_serial_sequence('nights_night', 'id'), greatest((SELECT max(id) FROM nights_night), 1))",
    MORE_NIGHTS,
    f"""INSERT INTO nights_trip (id, name, {OWNED}, first_night, wake_time, drive_h)
        SELECT id, name, {OWNED}, first_night, wake_time, drive_h FROM before_nights.trips_run_of_nights""",
    "INSERT INTO nights_trip_rigs (trip_id, rig_id) SELECT trip_id, rig_id FROM before_nights.trips_run_of_nights_rigs",
    "INSERT INTO nights_trip_targets (trip_id, target_id) SELECT trip_id, target_id FROM before_nights.trips_run_of_nights_targets",
    f"""INSERT INTO nights_trip_nights (trip_id, night_id)
        SELECT o.id, n.id FROM before_nights.trips_tripnight t JOIN before_nights.trips_run_of_nights o ON o.id = t.trip_id
        JOIN nights_night n ON {SAME_NIGHT} t.spot_id AND n.date = o.first_night + t.number""",
    "SELECT setval(pg_get_serial_sequence('nights_trip', 'id'), greatest((SELECT max(id) FROM nights_trip), 1))",
    f"""INSERT INTO nights_run (id, name, {OWNED}, night_id, target_id, rig_id, state, choices,
                                snapshot, filter_name)
        SELECT o.id, o.name, {OLD_OWNED}, n.id, o.target_id, o.rig_id, 'planned', o.choices,
               '{{}}', ''
        FROM before_nights.plans_plan o JOIN nights_night n ON {SAME_NIGHT} o.spot_id AND n.date = o.night""",
    "SELECT setval(pg_get_serial_sequence('nights_run', 'id'), greatest((SELECT max(id) FROM nights_run), 1))",
    f"""INSERT INTO nights_run (name, {OWNED}, night_id, target_id, state, choices, snapshot,
                                frames, exposure_s, f_number, iso, sky_mag, filter_name)
        SELECT o.name, {OLD_OWNED}, n.id, o.target_id, 'noted', '{{}}', '{{}}',
               o.frames, o.exposure_s, o.f_number, o.iso, o.sky_mag, o.filter_name
        FROM before_nights.gathered_session o JOIN nights_night n ON {SAME_NIGHT} NULL AND n.date = o.night ORDER BY o.id""",
)


def take_over(apps, schema_editor):
    with schema_editor.connection.cursor() as cursor:
        cursor.execute("SELECT 1 FROM information_schema.schemata WHERE schema_name = 'before_nights'")
        if cursor.fetchone() is None:
            return
        for step in STEPS:
            cursor.execute(step)
        cursor.execute("DROP SCHEMA before_nights CASCADE")
        cursor.execute("DELETE FROM django_migrations WHERE app IN ('plans', 'trips', 'gathered')")


class Migration(migrations.Migration):
    dependencies = [("nights", "0001_initial")]
    operations = [migrations.RunPython(take_over, migrations.RunPython.noop)]
