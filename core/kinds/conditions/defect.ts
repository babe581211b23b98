import { DEFECT_CODES, type DefectCode } from '../../message'
import { conditionKind } from './kind'

/** Any defect, or that one. */
export const defect = conditionKind({
  name: 'defect',
  label: 'malformed message',
  schema: ({ Joi }) => Joi.valid(true, ...DEFECT_CODES),
  holds: ({ message: { content, attempt } }, value: true | DefectCode) =>
    [...content.defects, ...attempt.defects].find(d => value === true || d.code === value)?.code ?? null,
  prefilter: {
    by: () => 'any',
    opened: ({ content, attempt }) => (content.defects.length || attempt.defects.length ? ['any'] : []),
  },
  words: value => (value === true ? 'the message is malformed' : `the message is malformed: “${value}”`),
  found: shown => `a malformed message (“${shown}”)`,
  blank: true as true | DefectCode,
  field: 'DefectField',
})
