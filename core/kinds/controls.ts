// Marks, embeddings, overrides and isolates of direction (Unicode Standard Annex #9, 2), and what has no shape of its own; but not
// what names of many languages and pictures need: joiners and variation selectors, which move nothing.
const CONTROLS = /(?!\p{Join_Control}|\p{Variation_Selector})[\p{Bidi_Control}\p{Default_Ignorable_Code_Point}\p{Cc}]/gu

/** A name with the characters made visible that would show it as another: "invoice⟨U+202E⟩fdp.exe". */
export function withVisibleControls(name: string): string {
  return name.replace(CONTROLS, c => `⟨U+${c.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}⟩`)
}
