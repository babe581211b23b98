// Words of the interface that several steps meet. Each stands here once, so that another wording is one change; whether it is the
// right one is no step's question.
export const WORDS = {
  save: 'Save',
  cancel: 'Cancel',
  undo: /^Undo/,
  undone: /^Undone/,
  undoneOne: 'Undone. 1 message is as before.',
  saved: (name: string) => new RegExp(`(?:Rule|List) “${name}” saved`),
  shown: (n: number) => `${n.toLocaleString('en-GB')} ${n === 1 ? 'message' : 'messages'}`,
  moved: (n: number) => `Moved ${n} messages.`,
  delete: 'Delete',
  releaser: 'A reviewer can release it.',
  notSaved: 'Your changes on this page are not saved.',
  proposed: 'Proposed. The answer appears under Proposals.',
} as const
