-- Whoever keeps what is known of a production's material hears that some of it has changed, whoever changed it.
CREATE FUNCTION "ennick_material_changed"() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM pg_notify('ennick_material', 'changed');
  RETURN NULL;
END
$$;--> statement-breakpoint
DO $$
DECLARE
  named text;
BEGIN
  FOREACH named IN ARRAY ARRAY['productions', 'volumes', 'files', 'declared_roles', 'clips', 'clip_files', 'clip_copies',
    'camera_proxies', 'pairs', 'pair_files', 'original_trials', 'recipes', 'lut_assignments', 'cuts', 'events', 'decisions']
  LOOP
    EXECUTE format('CREATE TRIGGER material_changed AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON %I
      FOR EACH STATEMENT EXECUTE FUNCTION ennick_material_changed()', named);
  END LOOP;
END
$$;
