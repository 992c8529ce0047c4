ALTER TABLE "cuts" ADD COLUMN "revision" bigint DEFAULT 0 NOT NULL;--> statement-breakpoint
-- What is known of a cut is kept as long as its revision stays; the material of a production does not hold cuts.
CREATE FUNCTION "ennick_cut_revised"() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  NEW.revision := OLD.revision + 1;
  RETURN NEW;
END
$$;--> statement-breakpoint
CREATE TRIGGER cut_revised BEFORE UPDATE ON cuts FOR EACH ROW EXECUTE FUNCTION ennick_cut_revised();--> statement-breakpoint
CREATE FUNCTION "ennick_cut_part_changed"() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  UPDATE cuts SET revision = revision WHERE id IN (SELECT DISTINCT cut_id FROM changed);
  RETURN NULL;
END
$$;--> statement-breakpoint
DO $$
DECLARE
  named text;
BEGIN
  FOREACH named IN ARRAY ARRAY['events', 'decisions'] LOOP
    EXECUTE format('CREATE TRIGGER cut_part_added AFTER INSERT ON %I REFERENCING NEW TABLE AS changed
      FOR EACH STATEMENT EXECUTE FUNCTION ennick_cut_part_changed()', named);
    EXECUTE format('CREATE TRIGGER cut_part_changed AFTER UPDATE ON %I REFERENCING NEW TABLE AS changed
      FOR EACH STATEMENT EXECUTE FUNCTION ennick_cut_part_changed()', named);
    EXECUTE format('CREATE TRIGGER cut_part_removed AFTER DELETE ON %I REFERENCING OLD TABLE AS changed
      FOR EACH STATEMENT EXECUTE FUNCTION ennick_cut_part_changed()', named);
    EXECUTE format('DROP TRIGGER material_changed ON %I', named);
  END LOOP;
  DROP TRIGGER material_changed ON cuts;
END
$$;
