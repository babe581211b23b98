-- Messages are found by words as phrases are cut, and no longer as a text search configuration cuts them. What is kept here keeps its
-- old words (version 0) until a job has cut it anew; of what has no source only a record is left, and nothing is to be cut.
ALTER TABLE "messages" ALTER COLUMN "search" DROP EXPRESSION;--> statement-breakpoint
ALTER TABLE "messages" ALTER COLUMN "search" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "messages" ADD COLUMN "search_version" smallint DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "messages" ALTER COLUMN "search_version" DROP DEFAULT;--> statement-breakpoint
UPDATE "messages" SET "search_version" = 1 WHERE NOT EXISTS (SELECT FROM "sources" s WHERE s."message_id" = "messages"."id");--> statement-breakpoint
ALTER TABLE "messages" DROP COLUMN "search_text";--> statement-breakpoint
CREATE INDEX "messages_by_search_version" ON "messages" USING btree ("search_version","id");--> statement-breakpoint
CREATE INDEX "messages_not_whole" ON "messages" USING btree ("id") WHERE not whole;
