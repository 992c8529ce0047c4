ALTER TABLE "joined_files" ADD COLUMN "removed_at" timestamp with time zone;--> statement-breakpoint
-- What is where in joined files is part of what is known of a production's material: a cut may name one.
CREATE TRIGGER material_changed AFTER INSERT OR UPDATE OR DELETE OR TRUNCATE ON joined_files
  FOR EACH STATEMENT EXECUTE FUNCTION ennick_material_changed();
