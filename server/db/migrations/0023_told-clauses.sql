CREATE TABLE "told_clauses" (
	"person_id" text NOT NULL,
	"clause_id" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "told_clauses_person_id_clause_id_pk" PRIMARY KEY("person_id","clause_id")
);
--> statement-breakpoint
ALTER TABLE "told_clauses" ADD CONSTRAINT "told_clauses_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;