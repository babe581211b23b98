DROP INDEX "copies_review_by_sender";--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "verdict" text DEFAULT 'none' NOT NULL;--> statement-breakpoint
-- What each attempt said of the sender; and every copy is ranked anew, since a From that nothing verified no longer counts.
UPDATE "copies" c SET "verdict" = a."authentication" ->> 'verdict' FROM "attempts" a
  WHERE a."id" = c."attempt_id" AND a."authentication" ->> 'verdict' IN ('pass', 'fail');--> statement-breakpoint
UPDATE "copies" SET "ranked_at" = NULL, "likely_why" = NULL WHERE "ranked_at" IS NOT NULL;--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "review_sender" text GENERATED ALWAYS AS (case sender_address when '' then '' else case verdict when 'pass' then 'verified ' else 'notVerified ' end || sender_address end) STORED NOT NULL;--> statement-breakpoint
CREATE INDEX "copies_review_by_sender" ON "copies" USING btree ("lane","quarantine_id","review_sender","likely" DESC NULLS LAST,"id" DESC NULLS LAST) WHERE lane in ('quarantine', 'spam', 'lowPriority', 'bin');--> statement-breakpoint
ALTER TABLE "copies" ADD CONSTRAINT "copies_verdict" CHECK (verdict in ('pass', 'fail', 'none'));--> statement-breakpoint

-- Personal allow lists and exceptions counted unless authentication failed where nothing was said. From now on "verified" is the default
-- for every owner; what was made before says explicitly what it counted on, so that no decision changes. Only what is mandatory counts
-- for verified senders whatever it said.
UPDATE "assignments" SET "counts" = 'notFailed' WHERE "owner" LIKE 'person:%' AND "side" = 'allow' AND "counts" IS NULL;--> statement-breakpoint
UPDATE "assignments" SET "counts" = NULL WHERE "mandatory";--> statement-breakpoint
-- Sender conditions with these counts where they work in favour of mail; under "none" it is the other way round.
CREATE FUNCTION with_counts(c jsonb, favours boolean, counts jsonb) RETURNS jsonb LANGUAGE plpgsql AS $$ BEGIN
  IF jsonb_typeof(c) = 'array' THEN
    RETURN (SELECT coalesce(jsonb_agg(with_counts(e, favours, counts) ORDER BY n), '[]') FROM jsonb_array_elements(c) WITH ORDINALITY x(e, n));
  END IF;
  IF jsonb_typeof(c) <> 'object' THEN RETURN c; END IF;
  IF c ?| array['sender', 'senderOn'] THEN
    RETURN CASE WHEN counts = '{}' THEN c - 'counts' WHEN favours THEN counts || c ELSE c END;
  END IF;
  RETURN (SELECT coalesce(jsonb_object_agg(k, CASE
      WHEN k IN ('all', 'any') THEN with_counts(v, favours, counts) WHEN k = 'none' THEN with_counts(v, NOT favours, counts) ELSE v
    END), '{}') FROM jsonb_each(c) x(k, v));
END $$;--> statement-breakpoint
UPDATE "rules" SET
  "when" = with_counts("when", "claims" @? '$[*].protect', '{"counts": "notFailed"}'),
  "except" = with_counts("except", "claims" @? '$[*].stop', '{"counts": "notFailed"}')
  WHERE "owner" LIKE 'person:%';--> statement-breakpoint
UPDATE "rules" SET "when" = with_counts("when", true, '{}'), "except" = with_counts("except", true, '{}') WHERE "mandatory";--> statement-breakpoint
DROP FUNCTION with_counts(jsonb, boolean, jsonb);--> statement-breakpoint

-- Users see in the menu how much is held for them, wherever they may see it at all.
ALTER TABLE "quarantine_settings" ALTER COLUMN "notified" SET DEFAULT true;--> statement-breakpoint
UPDATE "quarantine_settings" SET "notified" = true WHERE "visible";
