ALTER TABLE "people" ADD COLUMN "version" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "quarantine_settings" ADD COLUMN "version" integer DEFAULT 0 NOT NULL;