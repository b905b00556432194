"""The database itself refuses to change or take away a line of a record."""

from django.db import migrations

MAKE = """
CREATE FUNCTION jobs_entry_kept() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'A line of a job''s record is never changed or taken away (% was refused).', TG_OP USING ERRCODE = 'restrict_violation';
END $$;
CREATE TRIGGER jobs_entry_kept BEFORE UPDATE OR DELETE ON jobs_entry FOR EACH ROW EXECUTE FUNCTION jobs_entry_kept();
"""
UNMAKE = "DROP TRIGGER jobs_entry_kept ON jobs_entry; DROP FUNCTION jobs_entry_kept();"


class Migration(migrations.Migration):
    dependencies = [("jobs", "0006_origin")]
    operations = [migrations.RunSQL(MAKE, UNMAKE)]
