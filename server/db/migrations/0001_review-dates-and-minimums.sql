ALTER TABLE "phrase_sets" ADD COLUMN "minimum" real;--> statement-breakpoint
ALTER TABLE "rules" ADD COLUMN "review_on" timestamp with time zone;