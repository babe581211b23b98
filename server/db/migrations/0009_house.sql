CREATE TABLE "thresholds" (
	"row" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "thresholds_row_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"id" text NOT NULL,
	"from_version" integer NOT NULL,
	"to_version" integer,
	"at" real NOT NULL,
	"stop" jsonb NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX "thresholds_current" ON "thresholds" USING btree ("id") WHERE to_version is null;