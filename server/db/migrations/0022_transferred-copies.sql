CREATE TABLE "transferred_copies" (
	"event_id" bigint NOT NULL,
	"copy_id" bigint NOT NULL,
	"to_id" text NOT NULL,
	CONSTRAINT "transferred_copies_event_id_copy_id_pk" PRIMARY KEY("event_id","copy_id")
);
--> statement-breakpoint
ALTER TABLE "transferred_copies" ADD CONSTRAINT "transferred_copies_event_id_audit_events_id_fk" FOREIGN KEY ("event_id") REFERENCES "public"."audit_events"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "transferred_copies" ADD CONSTRAINT "transferred_copies_copy_id_copies_id_fk" FOREIGN KEY ("copy_id") REFERENCES "public"."copies"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "transferred_copies_copy_id_index" ON "transferred_copies" USING btree ("copy_id");