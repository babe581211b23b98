CREATE TABLE "opened_html" (
	"message_id" bigint PRIMARY KEY NOT NULL,
	"parser" smallint NOT NULL,
	"html" text
);
--> statement-breakpoint
ALTER TABLE "opened_html" ADD CONSTRAINT "opened_html_message_id_messages_id_fk" FOREIGN KEY ("message_id") REFERENCES "public"."messages"("id") ON DELETE cascade ON UPDATE no action;