CREATE INDEX "attempts_by_envelope_domain" ON "attempts" USING btree (reverse(lower(split_part(mail_from, '@', -1))) text_pattern_ops);--> statement-breakpoint
CREATE INDEX "attempts_not_ascii" ON "attempts" USING btree ("id") WHERE mail_from ~ '[^\x01-\x7f]';--> statement-breakpoint
CREATE INDEX "copies_by_attempt" ON "copies" USING btree ("attempt_id");--> statement-breakpoint
CREATE INDEX "messages_by_list" ON "messages" USING btree ("list_id") WHERE list_id is not null;--> statement-breakpoint
UPDATE "messages" m SET "sender_keys" = array(
  SELECT DISTINCT k FROM unnest(m.sender_keys
    || ARRAY['address:' || (m.facts #>> '{sender,key}'), 'address:' || (m.facts #>> '{sender,keyWithoutTag}'), 'domain:' || (m.facts #>> '{sender,domain}')]
    || array(SELECT 'below:' || array_to_string(labels[i:], '.') FROM (SELECT string_to_array(m.facts #>> '{sender,domain}', '.') AS labels) l, generate_subscripts(labels, 1) i)) k)
WHERE m.facts #>> '{sender,domain}' <> '';
