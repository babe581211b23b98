// The parts of css-tree that read; its whole brings data files along. Its types name the whole alone.
import type { parse as parseType } from 'css-tree'
// @ts-expect-error no types of its own
import parser from 'css-tree/parser'
// @ts-expect-error no types of its own
import { ident as identifiers } from 'css-tree/utils'

export const parse = parser as typeof parseType
export const ident = identifiers as { decode(text: string): string }
