CREATE TABLE "act_items" (
	"act_id" bigint NOT NULL,
	"copy_id" bigint NOT NULL,
	"before" jsonb,
	"after" jsonb,
	CONSTRAINT "act_items_act_id_copy_id_pk" PRIMARY KEY("act_id","copy_id")
);
--> statement-breakpoint
CREATE TABLE "acts" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "acts_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"person_id" text,
	"kind" text NOT NULL,
	"detail" jsonb NOT NULL,
	"undoes" bigint
);
--> statement-breakpoint
CREATE TABLE "addresses" (
	"address" text PRIMARY KEY NOT NULL,
	"person_id" text NOT NULL,
	"shown" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "attempts" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "attempts_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"transaction" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"client" text,
	"helo" text,
	"mail_from" text,
	"rcpt_to" text,
	"tls" boolean NOT NULL,
	"source" text NOT NULL,
	"authentication" jsonb,
	"direction" text,
	"defects" jsonb,
	"reply_code" smallint NOT NULL,
	"reply" text NOT NULL,
	"message_id" bigint
);
--> statement-breakpoint
CREATE TABLE "bindings" (
	"row" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "bindings_row_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"id" text NOT NULL,
	"from_version" integer NOT NULL,
	"to_version" integer,
	"list_id" text NOT NULL,
	"owner" text NOT NULL,
	"side" text NOT NULL,
	"must" boolean NOT NULL,
	"state" text NOT NULL,
	"direction" text NOT NULL,
	"stop" jsonb,
	"protect" jsonb,
	"counts" text
);
--> statement-breakpoint
CREATE TABLE "copies" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "copies_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"message_id" bigint NOT NULL,
	"attempt_id" bigint NOT NULL,
	"recipient" text NOT NULL,
	"person_id" text,
	"lane" text NOT NULL,
	"quarantine_id" text,
	"folder" text,
	"lane_since" timestamp with time zone NOT NULL,
	"received_at" timestamp with time zone NOT NULL,
	"ruling_id" bigint,
	"judgement" text,
	"judgement_strength" text,
	"moved_by" text,
	"first_opened_at" timestamp with time zone,
	"tags" text[] DEFAULT '{}' NOT NULL,
	"important" boolean DEFAULT false NOT NULL,
	"sender_address" text NOT NULL,
	"sender_domain" text NOT NULL,
	"sender_name" text NOT NULL,
	"subject" text NOT NULL,
	"decided" text NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	CONSTRAINT "copies_once" UNIQUE("message_id","recipient")
);
--> statement-breakpoint
CREATE TABLE "demo_truth" (
	"copy_id" bigint PRIMARY KEY NOT NULL,
	"wanted" boolean NOT NULL,
	"kind" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "departments" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"parent_id" text
);
--> statement-breakpoint
CREATE TABLE "domains" (
	"domain" text PRIMARY KEY NOT NULL
);
--> statement-breakpoint
CREATE TABLE "entries" (
	"row" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "entries_row_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"id" text NOT NULL,
	"from_version" integer NOT NULL,
	"to_version" integer,
	"list_id" text NOT NULL,
	"kind" text NOT NULL,
	"value" text NOT NULL,
	"note" text,
	"expires" timestamp with time zone,
	"added_at" timestamp with time zone NOT NULL,
	"added_by" text
);
--> statement-breakpoint
CREATE TABLE "judgements" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "judgements_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"copy_id" bigint NOT NULL,
	"person_id" text,
	"value" text NOT NULL,
	"strength" text NOT NULL,
	"act_id" bigint NOT NULL,
	"withdrawn_by" bigint,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "lists" (
	"row" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "lists_row_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"id" text NOT NULL,
	"from_version" integer NOT NULL,
	"to_version" integer,
	"name" text NOT NULL,
	"owner" text NOT NULL,
	"usual_side" text NOT NULL,
	"on" boolean NOT NULL
);
--> statement-breakpoint
CREATE TABLE "memberships" (
	"person_id" text NOT NULL,
	"department_id" text NOT NULL,
	"rank" integer NOT NULL,
	CONSTRAINT "memberships_person_id_department_id_pk" PRIMARY KEY("person_id","department_id")
);
--> statement-breakpoint
CREATE TABLE "messages" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "messages_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"content_hash" text NOT NULL,
	"message_id" text,
	"subject" text NOT NULL,
	"size" integer NOT NULL,
	"parser" smallint NOT NULL,
	"facts" jsonb NOT NULL,
	"sender_keys" text[] NOT NULL,
	"list_id" text,
	"search_text" text NOT NULL,
	"search" "tsvector" GENERATED ALWAYS AS (to_tsvector('simple', search_text)) STORED,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "messages_contentHash_unique" UNIQUE("content_hash")
);
--> statement-breakpoint
CREATE TABLE "people" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"role" text NOT NULL,
	"password_hash" text,
	"session_epoch" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "phrase_sets" (
	"row" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "phrase_sets_row_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"id" text NOT NULL,
	"from_version" integer NOT NULL,
	"to_version" integer,
	"name" text NOT NULL,
	"owner" text NOT NULL,
	"phrases" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "quarantines" (
	"row" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "quarantines_row_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"id" text NOT NULL,
	"from_version" integer NOT NULL,
	"to_version" integer,
	"name" text NOT NULL,
	"general" boolean NOT NULL
);
--> statement-breakpoint
CREATE TABLE "rules" (
	"row" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "rules_row_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"id" text NOT NULL,
	"from_version" integer NOT NULL,
	"to_version" integer,
	"name" text NOT NULL,
	"description" text,
	"group" text,
	"owner" text NOT NULL,
	"must" boolean NOT NULL,
	"raised" boolean,
	"state" text NOT NULL,
	"direction" text NOT NULL,
	"when" jsonb NOT NULL,
	"except" jsonb NOT NULL,
	"claims" jsonb NOT NULL,
	"end" text,
	"expires" timestamp with time zone,
	"rank" integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE "ruling_claims" (
	"ruling_id" bigint NOT NULL,
	"copy_id" bigint NOT NULL,
	"clause_kind" text NOT NULL,
	"clause_id" text NOT NULL,
	"list_id" text,
	"entry_id" text,
	"fate" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "rulings" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "rulings_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"copy_id" bigint NOT NULL,
	"sequence" integer NOT NULL,
	"policy_version" integer NOT NULL,
	"decided_lane" text NOT NULL,
	"final_lane" text NOT NULL,
	"quarantine_id" text,
	"effects" jsonb NOT NULL,
	"reasons" jsonb NOT NULL,
	"decided_by" integer,
	"at" timestamp with time zone NOT NULL,
	CONSTRAINT "rulings_sequence" UNIQUE("copy_id","sequence")
);
--> statement-breakpoint
CREATE TABLE "settings" (
	"key" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sources" (
	"message_id" bigint PRIMARY KEY NOT NULL,
	"raw" "bytea" NOT NULL
);
--> statement-breakpoint
CREATE TABLE "trust" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "trust_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"kind" text NOT NULL,
	"network" text NOT NULL,
	"authserv_id" text
);
--> statement-breakpoint
CREATE TABLE "versions" (
	"number" integer PRIMARY KEY NOT NULL,
	"owner" text NOT NULL,
	"parent" integer,
	"note" text NOT NULL,
	"by" text,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "act_items" ADD CONSTRAINT "act_items_act_id_acts_id_fk" FOREIGN KEY ("act_id") REFERENCES "public"."acts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "addresses" ADD CONSTRAINT "addresses_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "attempts" ADD CONSTRAINT "attempts_message_id_messages_id_fk" FOREIGN KEY ("message_id") REFERENCES "public"."messages"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "copies" ADD CONSTRAINT "copies_message_id_messages_id_fk" FOREIGN KEY ("message_id") REFERENCES "public"."messages"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "copies" ADD CONSTRAINT "copies_attempt_id_attempts_id_fk" FOREIGN KEY ("attempt_id") REFERENCES "public"."attempts"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "copies" ADD CONSTRAINT "copies_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "demo_truth" ADD CONSTRAINT "demo_truth_copy_id_copies_id_fk" FOREIGN KEY ("copy_id") REFERENCES "public"."copies"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "judgements" ADD CONSTRAINT "judgements_copy_id_copies_id_fk" FOREIGN KEY ("copy_id") REFERENCES "public"."copies"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "memberships" ADD CONSTRAINT "memberships_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "memberships" ADD CONSTRAINT "memberships_department_id_departments_id_fk" FOREIGN KEY ("department_id") REFERENCES "public"."departments"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "ruling_claims" ADD CONSTRAINT "ruling_claims_ruling_id_rulings_id_fk" FOREIGN KEY ("ruling_id") REFERENCES "public"."rulings"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rulings" ADD CONSTRAINT "rulings_copy_id_copies_id_fk" FOREIGN KEY ("copy_id") REFERENCES "public"."copies"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sources" ADD CONSTRAINT "sources_message_id_messages_id_fk" FOREIGN KEY ("message_id") REFERENCES "public"."messages"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "act_items_copy_id_index" ON "act_items" USING btree ("copy_id");--> statement-breakpoint
CREATE INDEX "acts_at_index" ON "acts" USING btree ("at");--> statement-breakpoint
CREATE INDEX "acts_person_id_at_index" ON "acts" USING btree ("person_id","at");--> statement-breakpoint
CREATE UNIQUE INDEX "acts_undone_once" ON "acts" USING btree ("undoes") WHERE undoes is not null;--> statement-breakpoint
CREATE INDEX "addresses_person_id_index" ON "addresses" USING btree ("person_id");--> statement-breakpoint
CREATE INDEX "attempts_at_index" ON "attempts" USING btree ("at");--> statement-breakpoint
CREATE INDEX "attempts_rcpt_to_at_index" ON "attempts" USING btree ("rcpt_to","at");--> statement-breakpoint
CREATE INDEX "attempts_mail_from_at_index" ON "attempts" USING btree ("mail_from","at");--> statement-breakpoint
CREATE UNIQUE INDEX "bindings_current" ON "bindings" USING btree ("id") WHERE to_version is null;--> statement-breakpoint
CREATE INDEX "bindings_list_id_index" ON "bindings" USING btree ("list_id");--> statement-breakpoint
CREATE INDEX "copies_by_time" ON "copies" USING btree ("received_at" DESC NULLS LAST,"id" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "copies_by_recipient" ON "copies" USING btree ("person_id","received_at" DESC NULLS LAST,"id" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "copies_by_lane" ON "copies" USING btree ("lane","quarantine_id","received_at" DESC NULLS LAST,"id" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "copies_by_sender" ON "copies" USING btree ("sender_address","received_at" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "copies_by_sender_domain" ON "copies" USING btree ("sender_domain","received_at" DESC NULLS LAST);--> statement-breakpoint
CREATE UNIQUE INDEX "entries_current" ON "entries" USING btree ("id") WHERE to_version is null;--> statement-breakpoint
CREATE UNIQUE INDEX "entries_current_value" ON "entries" USING btree ("list_id","kind","value") WHERE to_version is null;--> statement-breakpoint
CREATE INDEX "judgements_copy_id_index" ON "judgements" USING btree ("copy_id");--> statement-breakpoint
CREATE INDEX "judgements_act_id_index" ON "judgements" USING btree ("act_id");--> statement-breakpoint
CREATE UNIQUE INDEX "lists_current" ON "lists" USING btree ("id") WHERE to_version is null;--> statement-breakpoint
CREATE INDEX "messages_search" ON "messages" USING gin ("search");--> statement-breakpoint
CREATE INDEX "messages_sender_keys" ON "messages" USING gin ("sender_keys");--> statement-breakpoint
CREATE INDEX "messages_message_id_index" ON "messages" USING btree ("message_id");--> statement-breakpoint
CREATE UNIQUE INDEX "phrase_sets_current" ON "phrase_sets" USING btree ("id") WHERE to_version is null;--> statement-breakpoint
CREATE UNIQUE INDEX "quarantines_current" ON "quarantines" USING btree ("id") WHERE to_version is null;--> statement-breakpoint
CREATE UNIQUE INDEX "rules_current" ON "rules" USING btree ("id") WHERE to_version is null;--> statement-breakpoint
CREATE INDEX "ruling_claims_ruling_id_index" ON "ruling_claims" USING btree ("ruling_id");--> statement-breakpoint
CREATE INDEX "ruling_claims_clause_id_copy_id_index" ON "ruling_claims" USING btree ("clause_id","copy_id");--> statement-breakpoint
CREATE INDEX "ruling_claims_entry_id_copy_id_index" ON "ruling_claims" USING btree ("entry_id","copy_id");--> statement-breakpoint
CREATE INDEX "ruling_claims_list_id_copy_id_index" ON "ruling_claims" USING btree ("list_id","copy_id");