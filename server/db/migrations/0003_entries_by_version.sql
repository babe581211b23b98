CREATE INDEX "entries_begun" ON "entries" USING btree ("from_version");--> statement-breakpoint
CREATE INDEX "entries_ended" ON "entries" USING btree ("to_version") WHERE to_version is not null;