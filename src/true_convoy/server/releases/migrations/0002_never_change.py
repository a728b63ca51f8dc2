from django.db import migrations

REFUSE = """
CREATE FUNCTION releases_never_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'A release never changes (%).', OLD.version USING ERRCODE = 'restrict_violation';
END $$;
CREATE TRIGGER releases_never_change BEFORE UPDATE OR DELETE ON releases_release
    FOR EACH ROW EXECUTE FUNCTION releases_never_change();
"""
ALLOW = """
DROP TRIGGER releases_never_change ON releases_release;
DROP FUNCTION releases_never_change();
"""


class Migration(migrations.Migration):
    dependencies = [("releases", "0001_initial")]
    operations = [migrations.RunSQL(REFUSE, ALLOW)]
