import type { Content, TextPlace, Segment } from '../message'

/** A stretch of text in which phrases are sought; headers are told apart by their name. */
export interface TextSpan extends Segment {
  label?: string
}

/**
 * Everything in which phrases can be sought: the segments of the text first, so that numbers in reasons are theirs,
 * then what stands elsewhere in the message.
 */
export function textSpansOf(content: Content): TextSpan[] {
  const out: TextSpan[] = [...content.segments]
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
export function isAt(places: ReadonlySet<string>, textSpan: TextSpan): boolean {
  return places.has(textSpan.place) || (textSpan.place === 'header' && places.has(`header:${textSpan.label}`))
}

/** The places that a stretch belongs to, as looks name them. */
export function placesOf(textSpan: TextSpan): (TextPlace | `header:${string}`)[] {
  return textSpan.place === 'header' ? ['header', `header:${textSpan.label ?? ''}`] : [textSpan.place]
}
