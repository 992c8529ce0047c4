DROP INDEX "volumes_root";--> statement-breakpoint
CREATE INDEX "volumes_root" ON "volumes" USING btree ("production_id","root_path");