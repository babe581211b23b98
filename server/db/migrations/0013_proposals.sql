CREATE TABLE "proposals" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "proposals_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"person_id" text NOT NULL,
	"base" integer NOT NULL,
	"changes" jsonb NOT NULL,
	"words" text NOT NULL,
	"note" text NOT NULL,
	"copy_ids" jsonb NOT NULL,
	"state" text DEFAULT 'open' NOT NULL,
	"answered_by" text,
	"answered_at" timestamp with time zone,
	"reason" text,
	"proposed_by" bigint,
	"act_id" bigint,
	"seen_at" timestamp with time zone
);
--> statement-breakpoint
CREATE INDEX "proposals_open" ON "proposals" USING btree ("id") WHERE state = 'open';--> statement-breakpoint
CREATE INDEX "proposals_by_person" ON "proposals" USING btree ("person_id","id");--> statement-breakpoint
CREATE INDEX "proposals_by_act" ON "proposals" USING btree ("act_id");