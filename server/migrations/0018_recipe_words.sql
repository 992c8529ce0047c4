-- The purpose of recipes for OP-Atom is called by the trade's word.
UPDATE "recipes" SET "recipe" = jsonb_set("recipe", '{purpose}', '"cutting, OP-Atom, one file per track"') WHERE "recipe"->>'purpose' = 'cutting, one file per essence';
