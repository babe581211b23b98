DROP INDEX "entries_in_order";--> statement-breakpoint
ALTER TABLE "entries" ADD COLUMN "place" bigint;--> statement-breakpoint
CREATE INDEX "entries_in_place" ON "entries" USING btree ("list_id",coalesce(place, "row")) WHERE to_version is null;--> statement-breakpoint
CREATE INDEX "entries_ended_id" ON "entries" USING btree ("id") WHERE to_version is not null;