import type { EntryKind, KeptLane, Verdict } from '#core'
import type { PolicyChange } from '#core/change'
import type { Then } from '#core/suggest'
import type { Audience } from '#core/words'
import type { CopyCount, CopyDetail, CopyView } from '../../server/copies/copies'
import type { Directory } from '../../server/users/directory'
import type { AssignmentForm, AssignmentView } from '../../server/policy/assignments'
import type { FindingView } from '../../server/policy/findings'
import type { FoundEntry } from '../../server/policy/entries-found'
import type { Added, PasteProgress, NewListPaste, PasteView } from '../../server/policy/list-entries'
import type { EntryView, ListView, ListForm, NewList } from '../../server/policy/lists'
import type { UndoResult, EventGroup } from '../../server/audit/kinds'
import type { AuditEventView } from '../../server/audit/list'
import type { JobView } from '../../server/jobs/store'
import type { AttemptView } from '../../server/intake/attempts'
import type { SettingsView, SettingsChanged } from '../../server/users/settings'
import type { Settings, SettingsForm, Retention } from '../../server/users/settings-form'
import type { Member, MemberForm } from '../../server/users/members'
import type { UserImportReport } from '../../server/users/csv-import'
import type { KnownSender } from '../../server/copies/known-senders'
import type { NewlyStopped } from '../../server/copies/newly-stopped'
import type { AtStake, DeactivationForm } from '../../server/users/deactivation'
import type { TraceTest, TraceTestResult } from '../../server/users/trust-tests'
import type { DomainTestResult, SenderTest, SenderTestResult } from '../../server/verification/sender-tests'
import type { MovedCopies } from '../../server/copies/locked-copies'
import type { Changing, SavedChanges } from '../../server/impact/save-changes'
import type { ReturnPreview } from '../../server/impact/return-mail'
import type { ImpactView } from '../../server/impact/simulation'
import type { RequestCounts, ReleaseRequestView } from '../../server/requests/requests'
import type { Answer, ProposalCounts, ProposalForm, ProposalView } from '../../server/requests/proposals'
import type { Candidate, Suggestion, ExistingClauseView } from '../../server/suggestions/suggestions'
import type { WhatIfView } from '../../server/impact/what-if'
import type { Done } from '../../server/policy/apply'
import type { Since } from '../../server/policy/conflicts'
import type { PhraseSetForm, PhraseSetView } from '../../server/policy/phrase-sets'
import type { RuleStats } from '../../server/policy/rule-stats'
import type { RuleForm, RuleView } from '../../server/policy/rules'
import type { TakenApart } from '../../server/workers/parts'
import type { QuarantineSettings } from '../../server/policy/quarantine-settings'
import type { ReviewGroup, ReviewGroups } from '../../server/review/groups'
import type { ReviewItemView } from '../../server/review/items'
import type { PossibleForgery } from '../../server/copies/possible-forgeries'
import type { FixView, TogetherView } from '../../server/review/fixes'
import type { ReviewPlaceView, ReviewCount } from '../../server/review/review-places'
import type { Permission, Role } from '../../server/access/roles'
import type { ShownPerson as Person } from '../../server/users/people'
import type { SetupForm } from '../../server/users/setup'
import type { DryRun, DryRunForm } from '../../server/dry-run/dry-run'
import type { SendingForm, Sent } from '../../server/dry-run/send-test'

export type {
  Candidate,
  Changing,
  ReturnPreview,
  FixView,
  TogetherView,
  PossibleForgery,
  ReviewPlaceView,
  QuarantineSettings,
  ReleaseRequestView,
  ReviewGroup,
  ReviewItemView,
  ImpactView,
  FindingView,
  FoundEntry,
  PasteProgress,
  PasteView,
  ProposalView,
  SavedChanges,
  Since,
  Suggestion,
  ExistingClauseView,
  WhatIfView,
  AuditEventView,
  AttemptView,
  SettingsView,
  Settings,
  SettingsForm,
  JobView,
  Retention,
  Member,
  MemberForm,
  AtStake,
  KnownSender,
  NewlyStopped,
  TraceTestResult,
  DomainTestResult,
  SenderTestResult,
  Verdict,
  Added,
  AssignmentForm,
  AssignmentView,
  CopyCount,
  CopyDetail,
  CopyView,
  Directory,
  Done,
  EntryView,
  ListView,
  MovedCopies,
  UserImportReport,
  KeptLane,
  Person,
  PhraseSetForm,
  PhraseSetView,
  Permission,
  Role,
  RuleForm,
  RuleView,
  RuleStats,
  SetupForm,
  Sent,
  TakenApart,
  UndoResult,
  DryRun,
  DryRunForm,
}

export interface SessionAnswer {
  person: Person | null
  demo: { accounts: string[], password: string } | null
}
export interface OpenedList extends ListView {
  entries: EntryView[]
  next: number | null
  matching: number
  seen: number
}
export interface CopyQuery {
  words?: string
  lane?: string[]
  sender?: string
  recipient?: string
  judgement?: string
  touchedBy?: string
  eventId?: number
  important?: boolean
  tag?: string
  folder?: string
  filed?: boolean
  after?: string
  before?: string
  cursor?: string
  limit?: number
}

/** Which part of the audit log. */
export interface AuditEventFilter {
  mine?: boolean
  undoable?: boolean
  /** The id of a user, or `product`. */
  person?: string
  kind?: EventGroup
  after?: string
  before?: string
  rule?: string
  list?: string
  limit?: number
}

/** Which part of the message log. */
export interface AttemptFilter {
  words?: string
  sender?: string
  recipient?: string
  after?: string
  before?: string
}

/** Where mail is reviewed, and grouped by what. */
export interface ReviewPlace {
  lane: ReviewPlaceView['lane']
  quarantine?: string | null
  by: 'clause' | 'sender' | 'subject'
  words?: string
}
/** A clause whose mail is returned, and from when to when. */
export interface ReturnForm {
  clause: { kind: 'rule' | 'list', id: string }
  after?: string
  before?: string
}

/** A change as it is sent. */
export type ChangingForm = Omit<Changing, 'existing' | 'note'> & {
  note?: string
  existing?: { lanes: KeptLane[], after?: string, before?: string, ids?: number[] }
}

type Existing = ChangingForm['existing']

/** The act by which something was changed; null where nothing was. */
type Acted = Pick<Done, 'eventId'>

/** What the server says when it cannot do something (RFC 9457). */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    detail: string,
    readonly fields: Record<string, string>,
    /** Which kind of problem, where that is told from others, and its own members. */
    readonly kind: { type?: string, more: Record<string, unknown> } = { more: {} },
  ) {
    super(detail)
  }

  /** Whether it is one of the kinds that pages tell from others; stale: someone else changed it since it was loaded. */
  is(kind: 'stale' | 'broad' | 'erases' | 'forged'): boolean {
    return this.kind.type === `urn:sober-gate:problem:${kind}`
  }
}

interface Asking {
  body?: unknown
  /** A body that is sent as it is, and its media type. */
  raw?: string | Uint8Array<ArrayBuffer>
  type?: string
  query?: object
  signal?: AbortSignal
}

async function ask(method: string, path: string, { body, raw, type = 'application/json', query = {}, signal }: Asking): Promise<Response> {
  const params = new URLSearchParams()
  for (const [key, value] of Object.entries(query)) {
    for (const one of Array.isArray(value) ? value : [value])
      if (one !== undefined && one !== null && one !== '') params.append(key, String(one))
  }
  const sent = raw ?? (body === undefined ? undefined : JSON.stringify(body))
  const response = await fetch(`/api${path}${params.size ? `${path.includes('?') ? '&' : '?'}${params}` : ''}`, {
    method,
    headers: sent === undefined ? {} : { 'content-type': type },
    body: sent,
    signal,
  }).catch((error: unknown) => {
    if (signal?.aborted) throw error
    throw new ApiProblem(0, 'The server does not answer. Check your connection, then try again.', {})
  })
  if (response.ok) return response
  const { detail, fields = {}, type: kind, ...more } = (await response.json().catch(() => ({}))) as ProblemDocument
  throw new ApiProblem(response.status, detail ?? `The server answered ${response.status}.`, fields, { type: kind, more })
}

interface ProblemDocument extends Record<string, unknown> {
  detail?: string
  fields?: Record<string, string>
  type?: string
}

async function sendPeople<T>(file: string, query: object): Promise<T> {
  return (await (await ask('POST', '/users/csv', { raw: file, type: 'text/csv', query })).json()) as T
}

async function call<T>(method: string, path: string, body?: unknown, query?: object): Promise<T> {
  const response = await ask(method, path, { body, query })
  return response.status === 204 ? (undefined as T) : ((await response.json()) as T)
}

/** Tells of each event of an answer that streams; returns when it has ended. */
async function follow<T>(path: string, body: unknown, tell: (item: T) => void, signal: AbortSignal): Promise<void> {
  const response = await ask('POST', path, { body, query: { follow: 'yes' }, signal })
  const reader = response.body!.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (;;) {
    const { done, value } = await reader.read()
    if (done) return
    const events = (rest + value).split('\n\n')
    rest = events.pop()!
    for (const event of events) {
      if (event.startsWith('event: failed')) {
        const { detail } = JSON.parse(event.slice(event.indexOf('data: ') + 6)) as { detail?: string }
        throw new ApiProblem(500, detail ?? 'The connection ended too early. Try again.', {})
      }
      if (event.startsWith('data: ')) tell(JSON.parse(event.slice(6)) as T)
    }
  }
}

/** What a job saved. @throws what it has to be seen first, or why it saved nothing, as the request itself would have */
function savedByJob(id: number, checking: (job: JobView) => void): Promise<SavedChanges> {
  return new Promise((done, failed) => {
    const events = new EventSource(`/api/jobs/${id}`)
    const fail = (detail: string) => failed(new ApiProblem(500, detail, {}))
    events.onmessage = ({ data }: MessageEvent<string>) => {
      const job = JSON.parse(data) as JobView
      if (job.state === 'waiting' || job.state === 'running') return checking(job)
      events.close()
      if (job.result && 'saved' in job.result) return done(job.result.saved)
      if (job.state === 'cancelled') return fail('Cancelled. Nothing was saved.')
      if (!job.result) return fail(job.error ?? 'The connection ended too early. Nothing may have been saved: look before you try again.')
      const { status, detail, fields, type, more } = job.result.problem
      failed(new ApiProblem(status, detail, fields, { type, more }))
    }
    // The browser opens it again by itself; where it may not, nobody is signed in any more.
    events.onerror = () => {
      if (events.readyState === EventSource.CLOSED) fail('The connection ended. The change is saved if it needs no confirmation.')
    }
  })
}

const textOf = (response: Response) => response.text()

/** Without what is left empty: in a body an empty word would be one that is looked for. */
function filled<T extends object>(query: T): Partial<T> {
  return Object.fromEntries(Object.entries(query).filter(([, v]) => v !== undefined && v !== '')) as Partial<T>
}

/** The one client of the server's routes. */
export const api = {
  session: () => call<SessionAnswer>('GET', '/session'),
  signIn: (email: string, password: string) => call<{ person: Person }>('POST', '/session', { email, password }),
  signOut: () => call<undefined>('DELETE', '/session'),
  setupOpen: (token: string) => call<{ open: boolean }>('GET', '/setup', undefined, { token }),
  setUp: (form: SetupForm) => call<{ id: string }>('POST', '/setup', form),
  directory: () => call<Directory>('GET', '/directory'),
  copies: (query: CopyQuery) => call<{ items: CopyView[], next: string | null }>('GET', '/copies', undefined, query),
  copyCount: (query: CopyQuery) => call<CopyCount>('GET', '/copies/count', undefined, query),
  copy: (id: number) => call<CopyDetail>('GET', `/copies/${id}`),
  senders: (query: { words: string, kinds: KnownSender['kind'][] }) =>
    call<{ items: KnownSender[] }>('GET', '/senders', undefined, query),
  newlyStopped: () => call<{ items: NewlyStopped[] }>('GET', '/newly-stopped'),
  sawStopped: (clause: string) => call('POST', '/newly-stopped/seen', { clause }),
  deletePermanently: ({ id, version }: Pick<CopyView, 'id' | 'version'>) =>
    call<{ eventId: number }>('DELETE', `/copies/${id}?version=${version}`),
  source: async (id: number) => textOf(await ask('GET', `/copies/${id}/source`, {})),
  move: (ids: number[], to: { lane: KeptLane, quarantine?: string, confirmed?: number[] }, versions: Record<number, number>) =>
    call<MovedCopies>('POST', '/copies/lane', { ids, versions, ...to }),
  mark: (ids: number[], value: 'wanted' | 'unwanted' | null, versions: Record<number, number>) =>
    call<MovedCopies>('POST', '/copies/judgement', { ids, value, versions }),
  /** Sends copies somewhere and says of them what they are, in one event. */
  settle: (
    ids: number[],
    to: { lane: KeptLane, quarantine?: string | null, mark: 'wanted' | 'unwanted', reason?: string, confirmed?: number[] },
    versions: Record<number, number>,
  ) => call<MovedCopies>('POST', '/copies/lane', { ids, versions, ...to, quarantine: to.quarantine ?? undefined }),
  reviewPlaces: () => call<ReviewPlaceView[]>('GET', '/review/places'),
  reviewCount: () => call<ReviewCount>('GET', '/review/count'),
  reviewGroups: (place: ReviewPlace) => call<ReviewGroups>('GET', '/review', undefined, place),
  async reviewItems(query: ReviewPlace & { key?: string, soon?: boolean, informative?: boolean, cursor?: string, limit?: number }) {
    const { key, ...rest } = query
    // An empty key is that of what has none.
    const which = key === undefined ? '' : `?key=${encodeURIComponent(key)}`
    return call<{ items: ReviewItemView[], next: string | null }>('GET', `/review/items${which}`, undefined, rest)
  },
  empty: (what: { lane: 'bin' | 'spam', senders?: string[], count: number }) =>
    call<{ eventId: number, job: number }>('POST', '/review/purge', what),
  fixes: (ids: number[], tell: (fixes: FixView[]) => void, signal: AbortSignal) => follow<FixView[]>('/fixes', { ids }, tell, signal),
  fixesTogether: (ids: number[], fixes: { sentence: string, changes: PolicyChange[] }[]) =>
    call<TogetherView>('POST', '/fixes/together', { ids, fixes }),
  hits: (asked: { changes: readonly PolicyChange[], proposed: boolean, ids: number[] }) =>
    call<{ hits: number, of: number }>('POST', '/impact/hits', asked),
  requests: () => call<{ items: ReleaseRequestView[] } & RequestCounts>('GET', '/release-requests'),
  requestRelease: (ids: number[], note: string) =>
    call<{ eventId: number | null, asked: number }>('POST', '/release-requests', { ids, note }),
  answerRequest: (id: number, answer: { release: boolean, reason?: string, confirmed?: number[] }) =>
    call<{ state: string, eventId: number, notReleased: { why: string }[] }>('POST', `/release-requests/${id}/answer`, answer),
  sawReleased: (ids: number[]) => call<{ ids: number[] }>('POST', '/release-requests/seen', { ids }),
  previewReturn: (giving: ReturnForm) => call<ReturnPreview>('POST', '/returns', giving),
  returnMail: (giving: ReturnForm) => call<SavedChanges>('POST', '/returns', { ...giving, confirmed: true }),
  setQuarantine: ({ id, version }: SettingsView['quarantines'][number], form: Partial<QuarantineSettings>) =>
    call<{ eventId: number | null, settings: QuarantineSettings }>('PUT', `/quarantines/${id}`, { ...form, version }),
  removeQuarantine: ({ id, version }: SettingsView['quarantines'][number], to: string) =>
    call<Done & { moved: number }>('DELETE', `/quarantines/${id}`, undefined, { to, version }),
  moveAll: (query: CopyQuery & { except: number[] }, to: { lane: KeptLane, quarantine?: string, confirmed?: number[] }) =>
    call<{ eventId: number, job: number }>('POST', '/copies/lane', { query: filled(query), ...to }),
  markAll: (query: CopyQuery & { except: number[] }, value: 'wanted' | 'unwanted' | null) =>
    call<{ eventId: number, job: number }>('POST', '/copies/judgement', { query: filled(query), value }),
  whatIf: (id: number) => call<WhatIfView>('GET', `/copies/${id}/what-if`),
  suggestion: (asked: { ids?: number[], query?: CopyQuery & { except?: number[] }, then?: Then, owner?: string }) =>
    call<Suggestion>('POST', '/suggestions', { ...asked, ...(asked.query ? { query: filled(asked.query) } : {}) }),
  impact: (asked: { changes: readonly PolicyChange[], proposed?: boolean }, tell: (impact: ImpactView) => void, signal: AbortSignal) =>
    follow<ImpactView>('/impact', asked, tell, signal),
  parts: (change: PolicyChange, tell: (parts: TakenApart) => void, signal: AbortSignal) =>
    follow<TakenApart>('/impact/parts', { changes: [change] }, tell, signal),
  setStats: (id: string) => call<TakenApart>('GET', `/phrase-sets/${id}/stats`),
  impactNow: (changes: readonly PolicyChange[]) => call<ImpactView>('POST', '/impact', { changes }),
  proposals: () => call<{ items: ProposalView[] } & ProposalCounts>('GET', '/proposals'),
  proposalCounts: () => call<ProposalCounts>('GET', '/proposals', undefined, { count: 'yes' }),
  propose: (form: ProposalForm) => call<{ id: number, eventId: number }>('POST', '/proposals', form),
  answerProposal: (id: number, answer: Omit<Answer, 'existing'> & { existing?: Existing }) =>
    call<SavedChanges & { state: string }>('POST', `/proposals/${id}/answer`, answer),
  sawAnswers: (ids: number[]) => call<ProposalCounts>('POST', '/proposals/seen', { ids }),
  /** Saves a change; where counting all mail takes long, a job does so. @param checking told of that job on the way */
  async change(form: ChangingForm, checking: (job: JobView) => void = () => undefined): Promise<SavedChanges> {
    const saved = await call<SavedChanges | { checking: number }>('POST', '/changes', form)
    return 'checking' in saved ? savedByJob(saved.checking, checking) : saved
  },
  copyLabels: () => call<{ tags: string[], folders: string[] }>('GET', '/copies/labels'),
  attempts: (query: AttemptFilter & { cursor?: number }) =>
    call<{ items: AttemptView[], next: number | null, after: string, before: string }>('GET', '/attempts', undefined, query),
  async attemptsText(query: AttemptFilter & { audience: Audience }): Promise<string> {
    return textOf(await ask('GET', '/attempts', { query: { ...query, as: 'text', limit: 200 } }))
  },
  jobs: (query: { limit?: number, before?: number } = {}) =>
    call<{ items: JobView[], next: number | null }>('GET', '/jobs', undefined, query),
  stopJob: (id: number) => call<JobView>('DELETE', `/jobs/${id}`),
  settings: () => call<SettingsView>('GET', '/settings'),
  changeSettings: (form: SettingsForm) => call<SettingsChanged>('PUT', '/settings', form),
  members: (query: { words?: string, after?: string }) =>
    call<{ items: Member[], next: string | null, total: number }>('GET', '/users', undefined, query),
  addMember: (form: MemberForm) => call<Member>('POST', '/users', form),
  changeMember: (id: string, form: MemberForm & { version: number }) => call<Member>('PUT', `/users/${id}`, form),
  invite: (id: string) => call<{ link: string, expires: string }>('POST', `/users/${id}/invitations`),
  atStake: (id: string) => call<AtStake>('GET', `/users/${id}/deactivation`),
  deactivate: ({ id, version }: Member, form: Omit<DeactivationForm, 'version'>) =>
    call<Member & { eventId: number }>('POST', `/users/${id}/deactivation`, { ...form, version }),
  previewPeople: (file: string) => sendPeople<UserImportReport>(file, { dry: true }),
  importPeople: (file: string, version: string) => sendPeople<UserImportReport & { eventId: number | null }>(file, { version }),
  testTrace: (trace: TraceTest) => call<TraceTestResult>('POST', '/settings/tests', { trace }),
  testSender: (sender: SenderTest) => call<SenderTestResult>('POST', '/settings/tests', { sender }),
  testDomain: (domain: string) => call<DomainTestResult>('POST', '/settings/tests', { domain }),
  unverifiedMail: () => call<{ ready: number, without: number }>('GET', '/settings/unverified'),
  verifyMail: () => call<{ job: number }>('POST', '/settings/unverified', {}),
  testAddress: (address: string) => call<{ taken: boolean, words: string }>('POST', '/settings/tests', { address }),
  importMessage: async (message: Uint8Array, recipient: string | undefined) =>
    (await (await ask(
      'POST',
      '/imports',
      { raw: message as Uint8Array<ArrayBuffer>, type: 'message/rfc822', query: { recipient } },
    )).json()) as {
      copies: { id: number, repeat: boolean }[]
    },
  invitation: (token: string) => call<{ name: string, address: string }>('GET', '/invitations', undefined, { token }),
  acceptInvitation: (token: string, password: string) => call<{ address: string }>('POST', '/invitations', { token, password }),
  changePassword: (current: string, password: string) => call<{ changed: boolean }>('PUT', '/session/password', { current, password }),
  renameQuarantine: ({ id, version }: SettingsView['quarantines'][number], name: string) =>
    call<{ id: string, name: string } & Done>('PUT', `/quarantines/${id}`, { name, version }),
  auditEvents: (query: AuditEventFilter & { cursor?: number } = {}) =>
    call<{ items: AuditEventView[], next: number | null }>('GET', '/audit-events', undefined, query),
  undo: (eventId: number) => call<UndoResult>('POST', `/audit-events/${eventId}/undo`),
  lists: () => call<{ items: ListView[] }>('GET', '/lists'),
  list: (id: string, query: { words?: string, after?: number } = {}) => call<OpenedList>('GET', `/lists/${id}`, undefined, query),
  makeList: (body: NewList) => call<{ id: string } & Added & Done>('POST', '/lists', body),
  changeList: (id: string, body: ListForm & { version: number }) => call<OpenedList & Acted>('PUT', `/lists/${id}`, body),
  removeList: (id: string, version: number) => call<Done>('DELETE', `/lists/${id}`, undefined, { version }),
  reportPaste: (id: string, body: { text: string, below: boolean, as?: EntryKind }) =>
    call<PasteView>('POST', `/lists/${id}/entries`, { ...body, dry: true }),
  /** The same of a list that is not made yet. */
  listCopy: (id: string, owner: string) => call<{ changes: PolicyChange[] }>('GET', `/lists/${id}/copy`, undefined, { owner }),
  reportNewPaste: (body: NewListPaste) => call<PasteView>('POST', '/lists/report', body),
  addManyEntries: (id: string, body: object, tell: (item: PasteProgress | (Added & Done)) => void) =>
    follow<PasteProgress | (Added & Done)>(`/lists/${id}/entries`, body, tell, new AbortController().signal),
  addFile: async (id: string, file: string) =>
    (await (await ask('POST', `/lists/${id}/file`, { raw: file, type: 'text/csv' })).json()) as Added & Done,
  findEntries: (words: string) => call<{ items: FoundEntry[], more: boolean }>('GET', '/entries', undefined, { words }),
  addEntries: (id: string, body: { text: string, below: boolean, as?: EntryKind, note?: string, expires?: string }) =>
    call<Added & Done>('POST', `/lists/${id}/entries`, body),
  changeEntries: (id: string, body: { ids: string[], seen: number, note?: string | null, expires?: string | null }) =>
    call<{ changed: number } & Done>('PUT', `/lists/${id}/entries`, body),
  removeEntries: (id: string, ids: string[]) => call<{ removed: number } & Done>('POST', `/lists/${id}/removals`, { ids }),
  addAssignment: (list: string, owner: string, assignment: AssignmentForm) =>
    call<{ id: string } & Done>('POST', `/lists/${list}/assignments`, { owner, assignment }),
  changeAssignment: (id: string, version: number, assignment: AssignmentForm) =>
    call<Done>('PUT', `/assignments/${id}`, { assignment, version }),
  removeAssignment: (id: string, version: number) => call<Done>('DELETE', `/assignments/${id}`, undefined, { version }),
  rules: () => call<{ items: RuleView[], version: number }>('GET', '/rules'),
  rule: (id: string) => call<RuleView & { stats: RuleStats }>('GET', `/rules/${id}`),
  makeRule: (rule: RuleForm) => call<RuleView & Acted>('POST', '/rules', rule),
  changeRule: (id: string, rule: RuleForm & { version: number }) => call<RuleView & Acted>('PUT', `/rules/${id}`, rule),
  removeRule: (id: string, version: number) => call<Done>('DELETE', `/rules/${id}`, undefined, { version }),
  orderRules: (owner: string, ids: string[], version: number) => call<Done>('POST', '/rules/order', { owner, ids, version }),
  phraseSets: () => call<{ items: PhraseSetView[] }>('GET', '/phrase-sets'),
  makePhraseSet: (form: PhraseSetForm) => call<{ id: string } & Done>('POST', '/phrase-sets', form),
  changePhraseSet: (id: string, form: PhraseSetForm & { version: number }) => call<Done>('PUT', `/phrase-sets/${id}`, form),
  makeQuarantine: (name: string) => call<{ id: string, name: string } & Done>('POST', '/quarantines', { name }),
  dryRun: (form: DryRunForm) => call<DryRun>('POST', '/dry-run', form),
  sendTest: (form: SendingForm) => call<Sent>('POST', '/dry-run/send', form),
}
