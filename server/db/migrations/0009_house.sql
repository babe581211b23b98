CREATE TABLE "findings" (
	"version" integer PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"found" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "jobs" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "jobs_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"kind" text NOT NULL,
	"key" text,
	"state" text DEFAULT 'waiting' NOT NULL,
	"payload" jsonb NOT NULL,
	"cursor" jsonb,
	"done" integer DEFAULT 0 NOT NULL,
	"total" integer,
	"moved" integer DEFAULT 0 NOT NULL,
	"act_id" bigint,
	"person_id" text,
	"stopping" boolean DEFAULT false NOT NULL,
	"error" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "thresholds" (
	"row" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "thresholds_row_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"id" text NOT NULL,
	"from_version" integer NOT NULL,
	"to_version" integer,
	"at" real NOT NULL,
	"stop" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "addresses" DROP CONSTRAINT "addresses_pkey";--> statement-breakpoint
ALTER TABLE "addresses" ADD CONSTRAINT "addresses_address_person_id_pk" PRIMARY KEY("address","person_id");--> statement-breakpoint
ALTER TABLE "attempts" ADD COLUMN "first_hop" text;--> statement-breakpoint
ALTER TABLE "attempts" ADD COLUMN "signed_in" text;--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "mailbox" text;--> statement-breakpoint
ALTER TABLE "messages" ADD COLUMN "whole" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "left_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "handed_to" text;--> statement-breakpoint
CREATE INDEX "jobs_person_id_id_index" ON "jobs" USING btree ("person_id","id");--> statement-breakpoint
CREATE UNIQUE INDEX "jobs_one_at_a_time" ON "jobs" USING btree ("kind","key") WHERE state in ('waiting', 'running');--> statement-breakpoint
CREATE UNIQUE INDEX "thresholds_current" ON "thresholds" USING btree ("id") WHERE to_version is null;--> statement-breakpoint
CREATE INDEX "copies_by_mailbox" ON "copies" USING btree ("mailbox","received_at" DESC NULLS LAST,"id" DESC NULLS LAST) WHERE mailbox is not null;--> statement-breakpoint
CREATE INDEX "messages_by_parser" ON "messages" USING btree ("parser","id");--> statement-breakpoint
-- A condition on marks of upstream systems looked for these by itself; now they are named under whom we believe.
INSERT INTO "settings" ("key", "value")
SELECT 'upstream marks', '[
  {"id": "flag", "name": "Flag in the header", "header": "x-spam-flag", "text": "yes*"},
  {"id": "status", "name": "Status in the header", "header": "x-spam-status", "text": "yes*"},
  {"id": "bracket", "name": "[SPAM] before the subject", "before": "[SPAM]"},
  {"id": "stars", "name": "***SPAM*** before the subject", "before": "***SPAM***"}
]'::jsonb
WHERE EXISTS (SELECT 1 FROM "rules" WHERE "to_version" IS NULL AND ("when"::text LIKE '%"markedUpstream"%' OR "except"::text LIKE '%"markedUpstream"%'))
ON CONFLICT ("key") DO NOTHING;
