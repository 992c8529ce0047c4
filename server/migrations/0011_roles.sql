CREATE TABLE "declared_roles" (
	"volume_id" uuid NOT NULL,
	"path" text NOT NULL,
	"role" text NOT NULL,
	"declared_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "declared_roles_volume_id_path_pk" PRIMARY KEY("volume_id","path")
);
--> statement-breakpoint
ALTER TABLE "files" ADD COLUMN "first_fingerprint" text;--> statement-breakpoint
ALTER TABLE "declared_roles" ADD CONSTRAINT "declared_roles_volume_id_volumes_id_fk" FOREIGN KEY ("volume_id") REFERENCES "public"."volumes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
UPDATE "files" SET "first_fingerprint" = "fingerprint" WHERE "fingerprint" <> '';--> statement-breakpoint
CREATE FUNCTION "ennick_keep_first_fingerprint"() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF NEW.first_fingerprint IS NULL AND NEW.fingerprint <> '' THEN
    NEW.first_fingerprint := NEW.fingerprint;
  END IF;
  RETURN NEW;
END
$$;--> statement-breakpoint
CREATE TRIGGER "files_first_fingerprint" BEFORE INSERT OR UPDATE ON "files"
  FOR EACH ROW EXECUTE FUNCTION "ennick_keep_first_fingerprint"();--> statement-breakpoint
CREATE FUNCTION "ennick_fold"(text) RETURNS text LANGUAGE sql IMMUTABLE STRICT PARALLEL SAFE AS $$
  SELECT lower(normalize($1, NFC) COLLATE "und-x-icu")
$$;--> statement-breakpoint
-- A pair that was "sound" is proven or matched now: what searched for one searches for the other, and every row of the
-- index is written anew.
UPDATE "saved_searches" SET "condition" = replace(replace("condition"::text,
  '{"field": "proxy", "value": "sound", "operator": "is"}',
  '{"any": [{"field": "proxy", "value": "proven", "operator": "is"}, {"field": "proxy", "value": "matched", "operator": "is"}]}'),
  '{"field": "proxy", "value": "sound", "operator": "is not"}',
  '{"all": [{"field": "proxy", "value": "proven", "operator": "is not"}, {"field": "proxy", "value": "matched", "operator": "is not"}]}')::jsonb;--> statement-breakpoint
INSERT INTO "clip_staleness" ("production_id") SELECT "id" FROM "productions";
