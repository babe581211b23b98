-- Tables, columns and values in the words that the product uses everywhere; format version 2 inside every JSON column.

-- Indexes and the trigger that name old values or columns; made again at the end, when every row has its new values.
DROP TRIGGER "copies_to_be_ordered" ON "copies";--> statement-breakpoint
DROP FUNCTION "copy_to_be_ordered";--> statement-breakpoint
DROP INDEX "copies_review_by_clause", "copies_review_by_sender", "copies_review_by_subject", "copies_not_ordered", "copies_lane_since";--> statement-breakpoint

ALTER TABLE "acts" RENAME TO "audit_events";--> statement-breakpoint
ALTER TABLE "act_items" RENAME TO "audit_event_items";--> statement-breakpoint
ALTER TABLE "bindings" RENAME TO "assignments";--> statement-breakpoint
ALTER TABLE "rulings" RENAME TO "decisions";--> statement-breakpoint
ALTER TABLE "ruling_claims" RENAME TO "decision_claims";--> statement-breakpoint
ALTER TABLE "requests" RENAME TO "release_requests";--> statement-breakpoint
ALTER SEQUENCE "acts_id_seq" RENAME TO "audit_events_id_seq";--> statement-breakpoint
ALTER SEQUENCE "bindings_row_seq" RENAME TO "assignments_row_seq";--> statement-breakpoint
ALTER SEQUENCE "rulings_id_seq" RENAME TO "decisions_id_seq";--> statement-breakpoint
ALTER SEQUENCE "requests_id_seq" RENAME TO "release_requests_id_seq";--> statement-breakpoint
ALTER TABLE "audit_event_items" RENAME COLUMN "act_id" TO "event_id";--> statement-breakpoint
ALTER TABLE "assignments" RENAME COLUMN "must" TO "mandatory";--> statement-breakpoint
ALTER TABLE "rules" RENAME COLUMN "must" TO "mandatory";--> statement-breakpoint
ALTER TABLE "rules" RENAME COLUMN "raised" TO "overrides_lists";--> statement-breakpoint
ALTER TABLE "lists" RENAME COLUMN "on" TO "enabled";--> statement-breakpoint
ALTER TABLE "people" RENAME COLUMN "left_at" TO "deactivated_at";--> statement-breakpoint
ALTER TABLE "people" RENAME COLUMN "handed_to" TO "successor_id";--> statement-breakpoint
ALTER TABLE "copies" RENAME COLUMN "ruling_id" TO "decision_id";--> statement-breakpoint
ALTER TABLE "copies" RENAME COLUMN "ordered_at" TO "ranked_at";--> statement-breakpoint
ALTER TABLE "decision_claims" RENAME COLUMN "ruling_id" TO "decision_id";--> statement-breakpoint
ALTER TABLE "decision_claims" RENAME COLUMN "fate" TO "outcome";--> statement-breakpoint
ALTER TABLE "judgements" RENAME COLUMN "act_id" TO "event_id";--> statement-breakpoint
ALTER TABLE "judgements" RENAME COLUMN "withdrawn_by" TO "withdrawal_event_id";--> statement-breakpoint
ALTER TABLE "jobs" RENAME COLUMN "act_id" TO "event_id";--> statement-breakpoint
ALTER TABLE "proposals" RENAME COLUMN "act_id" TO "event_id";--> statement-breakpoint
ALTER TABLE "proposals" RENAME COLUMN "proposed_by" TO "proposal_event_id";--> statement-breakpoint
ALTER TABLE "release_requests" RENAME COLUMN "act_id" TO "event_id";--> statement-breakpoint
ALTER TABLE "release_requests" RENAME COLUMN "asked_by" TO "request_event_id";--> statement-breakpoint
ALTER TABLE "quarantine_settings" RENAME COLUMN "seen" TO "visible";--> statement-breakpoint
ALTER TABLE "quarantine_settings" RENAME COLUMN "told" TO "notified";--> statement-breakpoint
ALTER TABLE "quarantine_settings" RENAME COLUMN "may_ask" TO "can_request";--> statement-breakpoint
ALTER TABLE "quarantine_settings" RENAME COLUMN "may_release" TO "can_release";--> statement-breakpoint
ALTER TABLE "versions" RENAME COLUMN "note" TO "words";--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "note" jsonb;--> statement-breakpoint
-- Below the number with which the product describes changes now: a job makes these sentences anew.
ALTER TABLE "versions" ADD COLUMN "words_version" smallint NOT NULL DEFAULT 0;--> statement-breakpoint
ALTER TABLE "versions" ALTER COLUMN "words_version" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "proposals" ADD COLUMN "words_version" smallint NOT NULL DEFAULT 0;--> statement-breakpoint
ALTER TABLE "proposals" ALTER COLUMN "words_version" DROP DEFAULT;--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "filed" boolean NOT NULL DEFAULT false;--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "not_refused" boolean NOT NULL DEFAULT false;--> statement-breakpoint
ALTER TABLE "copies" ADD COLUMN "reason" jsonb;--> statement-breakpoint

ALTER INDEX "acts_pkey" RENAME TO "audit_events_pkey";--> statement-breakpoint
ALTER INDEX "acts_at_index" RENAME TO "audit_events_at_index";--> statement-breakpoint
ALTER INDEX "acts_person_id_at_index" RENAME TO "audit_events_person_id_at_index";--> statement-breakpoint
ALTER INDEX "acts_undone_once" RENAME TO "audit_events_undone_once";--> statement-breakpoint
ALTER INDEX "act_items_act_id_copy_id_pk" RENAME TO "audit_event_items_event_id_copy_id_pk";--> statement-breakpoint
ALTER INDEX "act_items_copy_id_index" RENAME TO "audit_event_items_copy_id_index";--> statement-breakpoint
ALTER INDEX "bindings_pkey" RENAME TO "assignments_pkey";--> statement-breakpoint
ALTER INDEX "bindings_current" RENAME TO "assignments_current";--> statement-breakpoint
ALTER INDEX "bindings_list_id_index" RENAME TO "assignments_list_id_index";--> statement-breakpoint
ALTER INDEX "rulings_pkey" RENAME TO "decisions_pkey";--> statement-breakpoint
ALTER INDEX "rulings_sequence" RENAME TO "decisions_sequence";--> statement-breakpoint
ALTER INDEX "ruling_claims_ruling_id_index" RENAME TO "decision_claims_decision_id_index";--> statement-breakpoint
ALTER INDEX "ruling_claims_clause_id_copy_id_index" RENAME TO "decision_claims_clause_id_copy_id_index";--> statement-breakpoint
ALTER INDEX "ruling_claims_entry_id_copy_id_index" RENAME TO "decision_claims_entry_id_copy_id_index";--> statement-breakpoint
ALTER INDEX "ruling_claims_list_id_copy_id_index" RENAME TO "decision_claims_list_id_copy_id_index";--> statement-breakpoint
ALTER INDEX "requests_pkey" RENAME TO "release_requests_pkey";--> statement-breakpoint
ALTER INDEX "requests_open" RENAME TO "release_requests_open";--> statement-breakpoint
ALTER INDEX "requests_by_person" RENAME TO "release_requests_by_person";--> statement-breakpoint
ALTER INDEX "requests_by_act" RENAME TO "release_requests_by_event";--> statement-breakpoint
ALTER INDEX "jobs_act_id_index" RENAME TO "jobs_event_id_index";--> statement-breakpoint
ALTER INDEX "judgements_act_id_index" RENAME TO "judgements_event_id_index";--> statement-breakpoint
ALTER INDEX "proposals_by_act" RENAME TO "proposals_by_event";--> statement-breakpoint
ALTER TABLE "audit_event_items" RENAME CONSTRAINT "act_items_act_id_acts_id_fk" TO "audit_event_items_event_id_audit_events_id_fk";--> statement-breakpoint
ALTER TABLE "decisions" RENAME CONSTRAINT "rulings_copy_id_copies_id_fk" TO "decisions_copy_id_copies_id_fk";--> statement-breakpoint
ALTER TABLE "decision_claims" RENAME CONSTRAINT "ruling_claims_ruling_id_rulings_id_fk" TO "decision_claims_decision_id_decisions_id_fk";--> statement-breakpoint
ALTER TABLE "release_requests" RENAME CONSTRAINT "requests_copy_id_copies_id_fk" TO "release_requests_copy_id_copies_id_fk";--> statement-breakpoint

-- Keys and values of version 1 of the format, wherever they stand in JSON. jsonb writes a key as "key": and escapes the quotes in
-- texts, so that nothing which a person wrote can look like one.
CREATE FUNCTION pg_temp.in_format_2(value jsonb) RETURNS jsonb LANGUAGE plpgsql IMMUTABLE AS $$
DECLARE
  said text := value::text;
  pair text[];
  pairs constant text[][] := ARRAY[
    ['"must": ', '"mandatory": '], ['"raised": ', '"overridesLists": '], ['"fate": ', '"outcome": '],
    ['"markedUpstream": ', '"upstreamVerdict": '], ['"on": true', '"enabled": true'], ['"on": false', '"enabled": false'],
    ['"to": "slow lane"', '"to": "lowPriority"'], ['"to": "drop"', '"to": "discard"'],
    ['"lane": "slow lane"', '"lane": "lowPriority"'], ['"lane": "dropped"', '"lane": "discarded"'],
    ['"state": "off"', '"state": "disabled"'], ['"state": "watching"', '"state": "monitor"'], ['"state": "acting"', '"state": "enabled"'],
    ['"counts": "pass"', '"counts": "verified"'], ['"counts": "not fail"', '"counts": "notFailed"'],
    ['"view": "undisguised"', '"view": "obfuscated"'],
    ['"kind": "domain and below"', '"kind": "domainAndSubdomains"'], ['"kind": "mailing list"', '"kind": "mailingList"'],
    ['"kind": "next hop"', '"kind": "nextHop"'], ['"kind": "subject mark"', '"kind": "subjectPrefix"'],
    ['"kind": "withhold from automation"', '"kind": "withholdFromAutomation"'],
    ['"kind": "agreed"', '"kind": "sameResult"'], ['"kind": "outranked"', '"kind": "comesAfter"'],
    ['"kind": "held off"', '"kind": "overriddenBy"'], ['"kind": "yielded"', '"kind": "replacedBy"'],
    ['"kind": "protection too late"', '"kind": "allowTooLate"'], ['"kind": "waits"', '"kind": "waiting"'],
    ['"kind": "not applied"', '"kind": "notApplied"'], ['"kind": "not reached"', '"kind": "notReached"'],
    ['"kind": "not counted"', '"kind": "notCounted"'], ['"kind": "watching"', '"kind": "monitored"'],
    ['"why": "not verified"', '"why": "notVerified"'], ['"why": "hidden text"', '"why": "hiddenText"'],
    ['"why": "never refused"', '"why": "neverRefused"']];
BEGIN
  IF said IS NULL THEN RETURN NULL; END IF;
  FOREACH pair SLICE 1 IN ARRAY pairs LOOP
    said := replace(said, pair[1], pair[2]);
  END LOOP;
  RETURN said::jsonb;
END $$;--> statement-breakpoint

CREATE FUNCTION pg_temp.lane_name(lane text) RETURNS text LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE lane WHEN 'slow lane' THEN 'lowPriority' WHEN 'dropped' THEN 'discarded' WHEN 'the bin' THEN 'bin' ELSE lane END
$$;--> statement-breakpoint
CREATE FUNCTION pg_temp.lane_names(lanes jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
  SELECT coalesce(jsonb_agg(pg_temp.lane_name(lane) ORDER BY n), '[]') FROM jsonb_array_elements_text(lanes) WITH ORDINALITY AS l(lane, n)
$$;--> statement-breakpoint
CREATE FUNCTION pg_temp.kind_name(kind text) RETURNS text LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE kind WHEN 'use' THEN 'assignment' WHEN 'phrase set' THEN 'phraseSet' ELSE kind END
$$;--> statement-breakpoint
CREATE FUNCTION pg_temp.change_in_format_2(change jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE
    WHEN change ->> 'put' = 'entries' THEN jsonb_build_object('type', 'put', 'kind', 'entries', 'list', change -> 'list',
      'entries', pg_temp.in_format_2(change -> 'entries'))
    WHEN change ? 'put' THEN jsonb_build_object('type', 'put', 'kind', pg_temp.kind_name(change ->> 'put'),
      'value', pg_temp.in_format_2(change -> (change ->> 'put')))
    WHEN change ->> 'remove' = 'entries' THEN jsonb_build_object('type', 'remove', 'kind', 'entries', 'list', change -> 'list',
      'entries', pg_temp.in_format_2(change -> 'entries'))
    WHEN change ? 'remove' THEN jsonb_build_object('type', 'remove', 'kind', pg_temp.kind_name(change ->> 'remove'), 'id', change -> 'id')
    WHEN change ? 'order' THEN jsonb_build_object('type', 'order', 'kind', 'rule', 'owner', change -> 'order', 'ids', change -> 'rules')
    ELSE change END
$$;--> statement-breakpoint
CREATE FUNCTION pg_temp.changes_in_format_2(changes jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
  SELECT coalesce(jsonb_agg(pg_temp.change_in_format_2(change) ORDER BY n), '[]')
  FROM jsonb_array_elements(changes) WITH ORDINALITY AS c(change, n)
$$;--> statement-breakpoint
-- Some keys of an object under other names.
CREATE FUNCTION pg_temp.renamed(value jsonb, names jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE WHEN jsonb_typeof(value) = 'object'
    THEN (SELECT coalesce(jsonb_object_agg(coalesce(names ->> key, key), inner_value), '{}') FROM jsonb_each(value) AS e(key, inner_value))
    ELSE value END
$$;--> statement-breakpoint

UPDATE "decisions" SET "reasons" = pg_temp.in_format_2("reasons"), "effects" = pg_temp.in_format_2("effects"),
  "decided_lane" = pg_temp.lane_name("decided_lane"), "final_lane" = pg_temp.lane_name("final_lane");--> statement-breakpoint
UPDATE "decision_claims" SET "outcome" = (pg_temp.in_format_2(jsonb_build_object('kind', "outcome"))) ->> 'kind'
  WHERE "outcome" IN ('agreed', 'outranked', 'held off', 'yielded', 'protection too late', 'waits', 'not applied', 'not reached',
    'not counted', 'watching');--> statement-breakpoint

-- What a list of messages says of a decision, as data.
CREATE FUNCTION pg_temp.short_reason(reasons jsonb, decided_by int) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
  SELECT CASE WHEN main IS NULL THEN jsonb_build_object('kind', 'none', 'matched', coalesce(jsonb_array_length(reasons), 0) > 0)
    ELSE jsonb_build_object(
      'kind', 'clause',
      'clause', jsonb_build_object('kind', main #> '{clause,kind}', 'id', main #> '{clause,id}', 'name', main #> '{clause,name}'),
      'owner', main -> 'owner',
      'outcome', main #> '{outcome,kind}',
      'decided', decided_by IS NOT NULL,
      'protects', main -> 'claim' ? 'protect',
      'phrases', (SELECT coalesce(jsonb_agg(phrase ORDER BY first), '[]') FROM (
        SELECT e ->> 'phrase' AS phrase, min(n) AS first FROM jsonb_array_elements(main -> 'evidence') WITH ORDINALITY AS t(e, n)
        WHERE e ->> 'kind' = 'phrase' GROUP BY 1 ORDER BY 2 LIMIT 3) p)) END
  FROM (SELECT coalesce(
    CASE WHEN decided_by IS NOT NULL THEN reasons -> decided_by END,
    (SELECT r FROM jsonb_array_elements(reasons) WITH ORDINALITY AS t(r, n) WHERE r #>> '{outcome,kind}' = 'protected' ORDER BY n LIMIT 1),
    (SELECT r FROM jsonb_array_elements(reasons) WITH ORDINALITY AS t(r, n)
      WHERE r #>> '{outcome,kind}' IN ('excepted', 'notCounted')
        OR (r #>> '{outcome,kind}' = 'monitored' AND (r #>> '{outcome,changes}')::boolean) ORDER BY n LIMIT 1)) AS main) m
$$;--> statement-breakpoint

UPDATE "copies" c SET
  "lane" = pg_temp.lane_name(c."lane"),
  "filed" = c."folder" IS NOT DISTINCT FROM 'filed',
  "folder" = nullif(c."folder", 'filed'),
  "not_refused" = 'not refused: others took it' = ANY (c."tags"),
  "tags" = array_remove(c."tags", 'not refused: others took it'),
  "moved_by" = CASE WHEN c."moved_by" = 'the longest wait' THEN 'quarantine expiry' ELSE c."moved_by" END,
  -- Worked out anew, in the words of today, by the job that ranks.
  "ranked_at" = NULL,
  "likely_why" = NULL,
  "reason" = CASE
    WHEN c."lane" = 'dropped' AND c."decided" LIKE 'erased by %' THEN jsonb_build_object('kind', 'erased', 'by', substr(c."decided", 11))
    WHEN c."lane" = 'dropped' AND c."decided" ~ '^cleared out of (the bin|spam) after \d+ days?$' THEN jsonb_build_object('kind', 'expired',
      'lane', CASE WHEN c."decided" LIKE '%the bin%' THEN 'bin' ELSE 'spam' END, 'days', substring(c."decided" from '\d+')::int)
    ELSE pg_temp.short_reason(d."reasons", d."decided_by") END
  FROM "copies" o LEFT JOIN "decisions" d ON d."id" = o."decision_id" WHERE o."id" = c."id";--> statement-breakpoint
ALTER TABLE "copies" ALTER COLUMN "reason" SET NOT NULL;--> statement-breakpoint

-- What events changed of copies. What a copy says of its decision follows from the decision that it had then.
UPDATE "audit_event_items" i SET
  "before" = CASE WHEN i."before" IS NULL THEN NULL ELSE b."state" END,
  "after" = CASE WHEN i."after" IS NULL THEN NULL ELSE a."state" END
  FROM "audit_event_items" o,
    LATERAL (SELECT CASE WHEN jsonb_typeof(o."before") = 'object' THEN
      (pg_temp.renamed(pg_temp.in_format_2(o."before"), '{"rulingId": "decisionId"}') - 'decided' - 'decidedOwner')
      || CASE WHEN o."before" ? 'folder'
        THEN jsonb_build_object('folder', nullif(o."before" ->> 'folder', 'filed'), 'filed', o."before" ->> 'folder' IS NOT DISTINCT FROM 'filed')
        ELSE '{}' END
      || CASE WHEN o."before" ? 'decided'
        THEN (SELECT jsonb_build_object('reason', pg_temp.short_reason(d."reasons", d."decided_by"))
          FROM (SELECT 1) one LEFT JOIN "decisions" d ON d."id" = (o."before" ->> 'rulingId')::bigint)
        ELSE '{}' END
      || CASE WHEN o."before" ->> 'movedBy' = 'the longest wait' THEN '{"movedBy": "quarantine expiry"}'::jsonb ELSE '{}' END
      ELSE o."before" END AS "state") b,
    LATERAL (SELECT CASE WHEN jsonb_typeof(o."after") = 'object' THEN
      (pg_temp.renamed(pg_temp.in_format_2(o."after"), '{"rulingId": "decisionId"}') - 'decided' - 'decidedOwner')
      || CASE WHEN o."after" ? 'folder'
        THEN jsonb_build_object('folder', nullif(o."after" ->> 'folder', 'filed'), 'filed', o."after" ->> 'folder' IS NOT DISTINCT FROM 'filed')
        ELSE '{}' END
      || CASE WHEN o."after" ? 'decided'
        THEN (SELECT jsonb_build_object('reason', pg_temp.short_reason(d."reasons", d."decided_by"))
          FROM (SELECT 1) one LEFT JOIN "decisions" d ON d."id" = (o."after" ->> 'rulingId')::bigint)
        ELSE '{}' END
      || CASE WHEN o."after" ->> 'movedBy' = 'the longest wait' THEN '{"movedBy": "quarantine expiry"}'::jsonb ELSE '{}' END
      ELSE o."after" END AS "state") a
  WHERE o."event_id" = i."event_id" AND o."copy_id" = i."copy_id"
    AND (jsonb_typeof(o."before") = 'object' OR jsonb_typeof(o."after") = 'object');--> statement-breakpoint
ALTER TABLE "copies" DROP COLUMN "decided", DROP COLUMN "decided_owner";--> statement-breakpoint

-- The policy, in every version of it.
UPDATE "rules" SET
  "state" = (pg_temp.in_format_2(jsonb_build_object('state', "state"))) ->> 'state',
  "when" = pg_temp.in_format_2("when"),
  "except" = pg_temp.in_format_2("except"),
  "claims" = pg_temp.in_format_2("claims");--> statement-breakpoint
UPDATE "assignments" SET
  "state" = (pg_temp.in_format_2(jsonb_build_object('state', "state"))) ->> 'state',
  "counts" = (pg_temp.in_format_2(jsonb_build_object('counts', "counts"))) ->> 'counts',
  "stop" = pg_temp.in_format_2("stop");--> statement-breakpoint
UPDATE "thresholds" SET "stop" = pg_temp.in_format_2("stop");--> statement-breakpoint
UPDATE "entries" SET "kind" = 'domainAndSubdomains' WHERE "kind" = 'domain and below';--> statement-breakpoint
UPDATE "entries" SET "kind" = 'mailingList' WHERE "kind" = 'mailing list';--> statement-breakpoint
UPDATE "trust" SET "kind" = 'ownNetwork' WHERE "kind" = 'own network';--> statement-breakpoint
UPDATE "settings" SET "key" = CASE "key"
    WHEN 'upstream marks' THEN 'upstreamVerdicts'
    WHEN 'public providers' THEN 'publicProviders'
    WHEN 'keeping' THEN 'retention'
    WHEN 'time zone' THEN 'timeZone'
    WHEN 'public address' THEN 'publicAddress'
    WHEN 'house version' THEN 'settingsVersion'
    ELSE "key" END;--> statement-breakpoint

-- Notes that a person wrote stay; those that the product wrote become data; the rest is made anew from what the version changed.
UPDATE "versions" SET "note" = CASE
    WHEN "words" ~ '^(List “|Rule “|Phrase set “|Quarantine “|Rules of |Threshold “|A use of a list ended|Taken back: |Nothing yet: )' THEN NULL
    WHEN "words" ~ '^gave back what the (rule|list) “.*” took$' THEN jsonb_build_object('kind', 'returnedMail',
      'clause', substring("words" from '^gave back what the (rule|list)'), 'name', substring("words" from '“(.*)” took$'))
    WHEN "words" ~ '^What was .*’s is .*’s now$' THEN jsonb_build_object('kind', 'handedOver',
      'from', substring("words" from '^What was (.*?)’s is '), 'to', substring("words" from '’s is (.*)’s now$'))
    WHEN "words" ~ '^Deleted the quarantine “.*”: what it held, and what would be held there, goes to “.*”$' THEN jsonb_build_object(
      'kind', 'removedQuarantine', 'name', substring("words" from '^Deleted the quarantine “(.*?)”: '), 'to', substring("words" from 'goes to “(.*)”$'))
    ELSE jsonb_build_object('kind', 'text', 'text', "words") END;--> statement-breakpoint

-- Events: their kinds, and data in place of sentences.
UPDATE "audit_events" SET "detail" = CASE "kind"
    WHEN 'changed' THEN "detail" - 'words' - 'stays'
    WHEN 'applied' THEN ("detail" - 'stays') || CASE WHEN "detail" ->> 'words' ~ '^gave back what the (rule|list) “.*” took$'
      THEN jsonb_build_object('words', '', 'note', jsonb_build_object('kind', 'returnedMail',
        'clause', substring("detail" ->> 'words' from '^gave back what the (rule|list)'), 'name', substring("detail" ->> 'words' from '“(.*)” took$')))
      ELSE '{}' END
    WHEN 'proposed' THEN "detail" - 'words'
    WHEN 'declined' THEN "detail" - 'words'
    WHEN 'taken back' THEN "detail" - 'words' - 'act' - 'kind'
    WHEN 'cleared' THEN "detail" || jsonb_build_object('lane', coalesce(pg_temp.lane_name("detail" ->> 'lane'), 'bin'))
    WHEN 'set a quarantine' THEN ("detail" - 'words') || jsonb_build_object('name', coalesce(
      (SELECT q."name" FROM "quarantines" q WHERE q."id" = "audit_events"."detail" ->> 'quarantine' ORDER BY q."row" DESC LIMIT 1),
      "detail" ->> 'quarantine'))
    WHEN 'changed users' THEN ("detail" - 'words') || CASE WHEN "detail" ->> 'words' LIKE 'imported users %' THEN '{"file": true}'::jsonb ELSE '{}' END
    WHEN 'set people' THEN ("detail" - 'words') || CASE
      WHEN "detail" ->> 'words' LIKE 'made a link for %' THEN jsonb_build_object('name', substr("detail" ->> 'words', 17))
      WHEN "detail" ->> 'words' ~ '^showed .* out(; what was theirs is .*’s)?$' THEN jsonb_strip_nulls(jsonb_build_object(
        'name', substring("detail" ->> 'words' from '^showed (.*?) out(?:$|; what was theirs)'),
        'successor', substring("detail" ->> 'words' from '; what was theirs is (.*)’s$')))
      WHEN "detail" ->> 'words' LIKE 'put down %' THEN jsonb_build_object('members', '[]'::jsonb, 'what', 'added', 'name', substr("detail" ->> 'words', 10))
      WHEN "detail" ->> 'words' LIKE 'changed what is known of %' THEN jsonb_build_object('members', '[]'::jsonb, 'what', 'changed',
        'name', substr("detail" ->> 'words', 26))
      WHEN "detail" ->> 'words' = 'chose a password' THEN '{}'
      ELSE '{"members": [], "file": true}' END
    ELSE CASE WHEN "person_id" IS NULL AND "detail" ->> 'reason' ~ '^nobody decided in \d+ days?$'
      THEN ("detail" - 'reason') || jsonb_build_object('waitedDays', substring("detail" ->> 'reason' from '\d+')::int) ELSE "detail" END
    END,
  "kind" = CASE "kind"
    WHEN 'rejected' THEN 'binned'
    WHEN 'asked' THEN 'requestedRelease'
    WHEN 'refused' THEN 'declinedRequest'
    WHEN 'judged' THEN 'marked'
    WHEN 'taken back' THEN 'undone'
    WHEN 'set the house' THEN 'changedSettings'
    WHEN 'set a quarantine' THEN 'changedQuarantine'
    WHEN 'changed users' THEN 'changedUsers'
    WHEN 'cleared' THEN 'purged'
    WHEN 'set up' THEN 'setUp'
    WHEN 'set people' THEN CASE
      WHEN "detail" ->> 'words' LIKE 'made a link for %' THEN 'invitedUser'
      WHEN "detail" ->> 'words' = 'chose a password' THEN 'chosePassword'
      WHEN "detail" ->> 'words' ~ '^showed .* out(; what was theirs is .*’s)?$' THEN 'deactivatedUser'
      ELSE 'changedUsers' END
    ELSE "kind" END;--> statement-breakpoint
UPDATE "audit_events" SET "detail" = pg_temp.in_format_2("detail")
  WHERE "kind" IN ('moved', 'released', 'binned', 'marked', 'purged') AND "detail" ->> 'lane' = 'slow lane';--> statement-breakpoint
UPDATE "audit_events" SET "detail" = "detail"
    || CASE WHEN "detail" ? 'parts' THEN jsonb_build_object('parts', (SELECT coalesce(jsonb_agg(
      CASE part WHEN 'marks' THEN 'upstreamVerdicts' WHEN 'keeping' THEN 'retention' ELSE part END ORDER BY n), '[]')
      FROM jsonb_array_elements_text("detail" -> 'parts') WITH ORDINALITY AS p(part, n))) ELSE '{}' END
    || jsonb_build_object(
      'before', pg_temp.renamed("detail" -> 'before', '{"marks": "upstreamVerdicts", "keeping": "retention"}'),
      'after', pg_temp.renamed("detail" -> 'after', '{"marks": "upstreamVerdicts", "keeping": "retention"}'))
  WHERE "detail" ? 'parts';--> statement-breakpoint
UPDATE "audit_events" SET "detail" = "detail" || jsonb_build_object(
    'before', pg_temp.renamed("detail" -> 'before', '{"seen": "visible", "told": "notified", "mayAsk": "canRequest", "mayRelease": "canRelease"}')
      || CASE WHEN "detail" #>> '{before,afterWait}' = 'reject' THEN '{"afterWait": "bin"}'::jsonb ELSE '{}' END,
    'after', pg_temp.renamed("detail" -> 'after', '{"seen": "visible", "told": "notified", "mayAsk": "canRequest", "mayRelease": "canRelease"}')
      || CASE WHEN "detail" #>> '{after,afterWait}' = 'reject' THEN '{"afterWait": "bin"}'::jsonb ELSE '{}' END)
  WHERE "detail" ? 'quarantine' AND jsonb_typeof("detail" -> 'before') = 'object' AND jsonb_typeof("detail" -> 'after') = 'object';--> statement-breakpoint

UPDATE "quarantine_settings" SET "after_wait" = 'bin' WHERE "after_wait" = 'reject';--> statement-breakpoint
UPDATE "release_requests" SET "state" = 'released' WHERE "state" = 'given';--> statement-breakpoint
-- Whether they can still be made is seen anew by the job that checks proposals.
UPDATE "proposals" SET "changes" = pg_temp.changes_in_format_2("changes"), "checked_version" = NULL, "problems" = NULL;--> statement-breakpoint
UPDATE "proposals" SET "size" = length("changes"::text);--> statement-breakpoint

UPDATE "jobs" SET
  "kind" = CASE "kind" WHEN 'keeping' THEN 'retention' WHEN 'review order' THEN 'rank' WHEN 'emptying' THEN 'purge' ELSE "kind" END,
  "payload" = CASE "kind"
    WHEN 'many' THEN pg_temp.renamed("payload", '{"deed": "action"}')
      || jsonb_build_object('action', pg_temp.in_format_2("payload" -> 'deed'))
      || jsonb_build_object('filter', pg_temp.renamed("payload" -> 'filter', '{"act": "eventId"}')
        || CASE WHEN jsonb_typeof("payload" #> '{filter,lane}') = 'array'
          THEN jsonb_build_object('lane', pg_temp.lane_names("payload" #> '{filter,lane}')) ELSE '{}' END
        || CASE WHEN "payload" #>> '{filter,judgement}' = 'unjudged' THEN '{"judgement": "unmarked"}'::jsonb ELSE '{}' END)
    WHEN 'existing' THEN "payload" || jsonb_build_object(
      'net', pg_temp.changes_in_format_2(coalesce("payload" -> 'net', '[]')),
      'lanes', pg_temp.lane_names(coalesce("payload" -> 'lanes', '[]')))
    ELSE "payload" END;--> statement-breakpoint
UPDATE "jobs" SET "payload" = "payload" #- '{filter,folder}' || jsonb_build_object('filter', ("payload" -> 'filter') - 'folder' || '{"filed": true}')
  WHERE "kind" = 'many' AND "payload" #>> '{filter,folder}' = 'filed';--> statement-breakpoint
-- Made anew by the job that checks the policy.
DELETE FROM "findings";--> statement-breakpoint

CREATE INDEX "copies_review_by_clause" ON "copies" USING btree ("lane","quarantine_id","review_clause","likely" DESC NULLS LAST,"id" DESC NULLS LAST) WHERE lane in ('quarantine', 'spam', 'lowPriority', 'bin');--> statement-breakpoint
CREATE INDEX "copies_review_by_sender" ON "copies" USING btree ("lane","quarantine_id","sender_address","likely" DESC NULLS LAST,"id" DESC NULLS LAST) WHERE lane in ('quarantine', 'spam', 'lowPriority', 'bin');--> statement-breakpoint
CREATE INDEX "copies_review_by_subject" ON "copies" USING btree ("lane","quarantine_id","review_subject","likely" DESC NULLS LAST,"id" DESC NULLS LAST) WHERE lane in ('quarantine', 'spam', 'lowPriority', 'bin');--> statement-breakpoint
CREATE INDEX "copies_not_ranked" ON "copies" USING btree ("id") WHERE ranked_at is null and lane in ('quarantine', 'spam', 'lowPriority', 'bin');--> statement-breakpoint
CREATE INDEX "copies_lane_since" ON "copies" USING btree ("lane","lane_since") WHERE lane in ('quarantine', 'spam', 'lowPriority', 'bin');--> statement-breakpoint
-- Whatever the rank of a copy in Review follows from clears the rank; the job that ranks works it out anew.
CREATE FUNCTION clear_copy_rank() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN NEW.ranked_at := null; RETURN NEW; END $$;--> statement-breakpoint
CREATE TRIGGER copies_clear_rank BEFORE UPDATE OF lane, quarantine_id, judgement, moved_by, decision_id, subject ON copies
  FOR EACH ROW WHEN ((OLD.lane, OLD.quarantine_id, OLD.judgement, OLD.moved_by, OLD.decision_id, OLD.subject)
    IS DISTINCT FROM (NEW.lane, NEW.quarantine_id, NEW.judgement, NEW.moved_by, NEW.decision_id, NEW.subject))
  EXECUTE FUNCTION clear_copy_rank();--> statement-breakpoint

ALTER TABLE "copies" ADD CONSTRAINT "copies_lane" CHECK (lane in ('inbox', 'lowPriority', 'spam', 'quarantine', 'bin', 'refused', 'discarded', 'sent'));--> statement-breakpoint
ALTER TABLE "decisions" ADD CONSTRAINT "decisions_lanes" CHECK (decided_lane in ('inbox', 'lowPriority', 'spam', 'quarantine', 'bin', 'refused', 'discarded', 'sent') and final_lane in ('inbox', 'lowPriority', 'spam', 'quarantine', 'bin', 'refused', 'discarded', 'sent'));--> statement-breakpoint
ALTER TABLE "rules" ADD CONSTRAINT "rules_state" CHECK (state in ('disabled', 'monitor', 'enabled'));--> statement-breakpoint
ALTER TABLE "assignments" ADD CONSTRAINT "assignments_state" CHECK (state in ('disabled', 'monitor', 'enabled'));--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_state" CHECK (state in ('waiting', 'running', 'done', 'failed', 'cancelled'));--> statement-breakpoint
ALTER TABLE "proposals" ADD CONSTRAINT "proposals_state" CHECK (state in ('open', 'accepted', 'declined', 'withdrawn'));--> statement-breakpoint
ALTER TABLE "release_requests" ADD CONSTRAINT "release_requests_state" CHECK (state in ('open', 'released', 'declined', 'withdrawn'));
