ALTER TABLE "jobs" DROP CONSTRAINT "jobs_state";--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "result" jsonb;--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_state" CHECK (state in ('waiting', 'running', 'done', 'failed', 'cancelled', 'needsConfirmation'));