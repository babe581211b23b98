import type { Content, Place, Segment } from '../message'

/** A stretch of text in which phrases are sought; headers are told apart by their name. */
export interface Stretch extends Segment {
  label?: string
}

/**
 * Everything in which phrases can be sought: the segments of the text first, so that numbers in reasons are theirs,
 * then what stands elsewhere in the message.
 */
export function stretchesOf(content: Content): Stretch[] {
  const out: Stretch[] = [...content.segments]
  for (const { name } of content.from) if (name) out.push({ place: 'sender name', text: name })
  for (const { target } of content.links) out.push({ place: 'link', text: target })
  for (const { name, text, inside } of content.attachments) {
    if (name) out.push({ place: 'attachment name', text: name })
    for (const file of inside ?? []) out.push({ place: 'attachment name', text: file, label: name })
    if (text) out.push({ place: 'attachment text', text, label: name })
  }
  for (const { name, value } of content.headers) out.push({ place: 'header', text: value, label: name.toLowerCase() })
  return out
}

/** True if a look at those places sees the stretch. */
export function isAt(places: ReadonlySet<string>, stretch: Stretch): boolean {
  return places.has(stretch.place) || (stretch.place === 'header' && places.has(`header:${stretch.label}`))
}

/** The places that a stretch belongs to, as looks name them. */
export function placesOf(stretch: Stretch): (Place | `header:${string}`)[] {
  return stretch.place === 'header' ? ['header', `header:${stretch.label ?? ''}`] : [stretch.place]
}
