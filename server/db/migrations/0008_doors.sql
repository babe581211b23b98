CREATE TABLE "rate_limits" (
	"key" text PRIMARY KEY NOT NULL,
	"points" integer NOT NULL,
	"expire" bigint
);
--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "decided_owner" text;--> statement-breakpoint
-- Of copies that were decided before this column: whoever's own clause is among the reasons is taken for the one that is named.
UPDATE "copies" SET "decided_owner" = (
  SELECT r ->> 'owner' FROM "rulings", jsonb_array_elements("rulings"."reasons") r
  WHERE "rulings"."id" = "copies"."ruling_id" AND r ->> 'owner' LIKE 'person:%' LIMIT 1
);
--> statement-breakpoint
-- Made again at the next opening, with the true targets of links.
DELETE FROM "opened_html";
