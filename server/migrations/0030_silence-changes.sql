-- What was heard of tracks is part of what is known of a production's material.
CREATE TRIGGER material_changed AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON sound_envelopes
  FOR EACH STATEMENT EXECUTE FUNCTION ennick_material_changed();
