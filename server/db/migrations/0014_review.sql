CREATE TABLE "quarantine_reviewers" (
	"quarantine_id" text NOT NULL,
	"person_id" text NOT NULL,
	CONSTRAINT "quarantine_reviewers_quarantine_id_person_id_pk" PRIMARY KEY("quarantine_id","person_id")
);
--> statement-breakpoint
CREATE TABLE "quarantine_settings" (
	"quarantine_id" text PRIMARY KEY NOT NULL,
	"deputy_id" text,
	"wait_days" integer,
	"after_wait" text DEFAULT 'bin' NOT NULL,
	"seen" boolean DEFAULT true NOT NULL,
	"told" boolean DEFAULT false NOT NULL,
	"may_ask" boolean DEFAULT true NOT NULL,
	"may_release" boolean DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE TABLE "requests" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "requests_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"copy_id" bigint NOT NULL,
	"person_id" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"note" text NOT NULL,
	"state" text DEFAULT 'open' NOT NULL,
	"answered_by" text,
	"answered_at" timestamp with time zone,
	"reason" text,
	"asked_by" bigint,
	"act_id" bigint,
	"seen_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "review_clause" text;--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "review_subject" text;--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "likely" smallint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "likely_why" jsonb;--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "ordered_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "quarantine_reviewers" ADD CONSTRAINT "quarantine_reviewers_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "quarantine_settings" ADD CONSTRAINT "quarantine_settings_deputy_id_people_id_fk" FOREIGN KEY ("deputy_id") REFERENCES "public"."people"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "requests" ADD CONSTRAINT "requests_copy_id_copies_id_fk" FOREIGN KEY ("copy_id") REFERENCES "public"."copies"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "quarantine_reviewers_person_id_index" ON "quarantine_reviewers" USING btree ("person_id");--> statement-breakpoint
CREATE UNIQUE INDEX "requests_open" ON "requests" USING btree ("copy_id","person_id") WHERE state = 'open';--> statement-breakpoint
CREATE INDEX "requests_by_person" ON "requests" USING btree ("person_id","id");--> statement-breakpoint
CREATE INDEX "requests_by_act" ON "requests" USING btree ("act_id");--> statement-breakpoint
CREATE INDEX "copies_review_by_clause" ON "copies" USING btree ("lane","quarantine_id","review_clause","likely" DESC NULLS LAST,"id" DESC NULLS LAST) WHERE lane in ('spam', 'quarantine', 'slow lane', 'bin');--> statement-breakpoint
CREATE INDEX "copies_review_by_sender" ON "copies" USING btree ("lane","quarantine_id","sender_address","likely" DESC NULLS LAST,"id" DESC NULLS LAST) WHERE lane in ('spam', 'quarantine', 'slow lane', 'bin');--> statement-breakpoint
CREATE INDEX "copies_review_by_subject" ON "copies" USING btree ("lane","quarantine_id","review_subject","likely" DESC NULLS LAST,"id" DESC NULLS LAST) WHERE lane in ('spam', 'quarantine', 'slow lane', 'bin');--> statement-breakpoint
CREATE INDEX "copies_not_ordered" ON "copies" USING btree ("id") WHERE ordered_at is null and lane in ('spam', 'quarantine', 'slow lane', 'bin');--> statement-breakpoint
CREATE INDEX "copies_lane_since" ON "copies" USING btree ("lane","lane_since") WHERE lane in ('spam', 'quarantine', 'slow lane', 'bin');--> statement-breakpoint
-- Whatever the order of a review follows from puts a copy's place in question; who works it out anew is the job of that name.
CREATE FUNCTION copy_to_be_ordered() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN NEW.ordered_at := null; RETURN NEW; END $$;--> statement-breakpoint
CREATE TRIGGER copies_to_be_ordered BEFORE UPDATE OF lane, quarantine_id, judgement, moved_by, ruling_id, subject ON copies
  FOR EACH ROW WHEN ((OLD.lane, OLD.quarantine_id, OLD.judgement, OLD.moved_by, OLD.ruling_id, OLD.subject)
    IS DISTINCT FROM (NEW.lane, NEW.quarantine_id, NEW.judgement, NEW.moved_by, NEW.ruling_id, NEW.subject))
  EXECUTE FUNCTION copy_to_be_ordered();--> statement-breakpoint
-- Where people are here already nothing begins to be cleared away by itself.
INSERT INTO settings (key, value) SELECT 'keeping', '{"bin": null, "attempts": null, "spam": null}'::jsonb
  WHERE EXISTS (SELECT 1 FROM people) ON CONFLICT DO NOTHING;--> statement-breakpoint
UPDATE settings SET value = value || '{"spam": null}'::jsonb WHERE key = 'keeping' AND NOT value ? 'spam';
