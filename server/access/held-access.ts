import { inArray, sql, type SQL } from 'drizzle-orm'
import { people } from '../db/schema'
import { can, ROLES } from './roles'

const REVIEWING = ROLES.filter(role => can({ role }, 'hold and release'))

/**
 * What of held mail is somebody's to see and to let out, as one JSON value of a query (`HeldAccess`): it is asked with every request.
 * The general quarantine is everybody's who reviews.
 */
export function heldAccessOf(person: string): SQL {
  const isDeputy = sql`exists (
    select 1 from quarantine_settings s where s.quarantine_id = r.quarantine_id and s.deputy_id = ${person})`
  return sql`json_build_object(
    'othersReview', (
      select coalesce(json_agg(quarantine_id order by quarantine_id), '[]') from (
        select r.quarantine_id
        from quarantine_reviewers r
        -- Whoever has left reviews nothing any more: what names only them is everybody's again.
        join people on people.id = r.person_id and people.deactivated_at is null and ${inArray(people.role, REVIEWING)}
        where r.quarantine_id <> 'general'
        group by r.quarantine_id
        having not bool_or(r.person_id = ${person}) and not bool_or(${isDeputy})) others),
    'unseen', (
      select coalesce(json_agg(quarantine_id order by quarantine_id), '[]') from quarantine_settings where not visible),
    'ownRelease', (
      select coalesce(json_agg(quarantine_id order by quarantine_id), '[]') from quarantine_settings where visible and can_release),
    'noRequests', (
      select coalesce(json_agg(quarantine_id order by quarantine_id), '[]') from quarantine_settings where not can_request))`
}
