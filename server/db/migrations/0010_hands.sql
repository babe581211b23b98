CREATE TABLE "invitations" (
	"token_hash" text PRIMARY KEY NOT NULL,
	"person_id" text NOT NULL,
	"made_by" text,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	"expires_at" timestamp with time zone NOT NULL,
	"used_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "erased" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "invitations" ADD CONSTRAINT "invitations_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "invitations_person_id_index" ON "invitations" USING btree ("person_id");--> statement-breakpoint
CREATE INDEX "copies_tags" ON "copies" USING gin ("tags");--> statement-breakpoint
CREATE INDEX "copies_tagged" ON "copies" USING btree ("person_id") WHERE tags <> '{}';--> statement-breakpoint
CREATE INDEX "copies_by_folder" ON "copies" USING btree ("folder","received_at" DESC NULLS LAST) WHERE folder is not null;--> statement-breakpoint
UPDATE "copies" c SET "erased" = true FROM "rulings" r WHERE r."id" = c."ruling_id" AND c."lane" = 'dropped' AND r."reasons" -> r."decided_by" -> 'claim' -> 'stop' ->> 'to' = 'erase';
