UPDATE "recipes" SET "recipe" = "recipe" || '{"skipCodecs": [], "skipPlaying": null}' WHERE NOT "recipe" ? 'skipPlaying';
