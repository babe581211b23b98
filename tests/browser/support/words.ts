// Words of the interface that several steps meet. Each stands here once, so that another wording is one change; whether it is the
// right one is no step's question.
export const WORDS = {
  save: 'Put in force',
  cancel: 'Leave it',
  undo: /^Take back/,
  undone: /^Taken back/,
  undoneOne: 'Taken back: one message is as before.',
  saved: (name: string) => new RegExp(`“${name}” is in force`),
  shown: (n: number) => `${n} ${n === 1 ? 'copy' : 'copies'}`,
  moved: (n: number) => `Moved ${n} messages.`,
  delete: 'Delete it',
  releaser: 'a reviewer or an administrator releases it',
  notSaved: 'What you changed on this page is not saved.',
  proposed: 'Proposed. You are told here what becomes of it.',
} as const
