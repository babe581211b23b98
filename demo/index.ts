export { generate, ODD, type DemoMessage } from './generate'
export { DEMO_CLAUSES } from './policy'
export { DEMO_PASSWORD, DEPARTMENTS, OWN_DOMAIN, PEOPLE, personId, TRUST, type DemoPerson } from './world'
export { Random } from './random'
