ALTER TABLE "proposals" ADD COLUMN "size" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "proposals" ADD COLUMN "checked_version" integer;--> statement-breakpoint
ALTER TABLE "proposals" ADD COLUMN "stale" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "proposals" ADD COLUMN "problems" jsonb;--> statement-breakpoint
UPDATE "proposals" SET "size" = length("changes"::text);
