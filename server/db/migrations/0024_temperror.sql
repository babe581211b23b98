ALTER TABLE "copies" DROP CONSTRAINT "copies_verdict";--> statement-breakpoint
ALTER TABLE "copies" ADD CONSTRAINT "copies_verdict" CHECK (verdict in ('pass', 'fail', 'none', 'temperror'));