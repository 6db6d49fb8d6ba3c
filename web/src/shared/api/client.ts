import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

type Schemas = components['schemas'];
export type Board = Schemas['BoardDto'];
export type Calendar = Schemas['CalendarDto'];
export type CalendarInput = Schemas['CalendarInput'];
export type Reach = Schemas['ReachDto'];
export type Audience = Exclude<Schemas['Audience'], 'team'>;
export type Detail = Schemas['Detail'];
export type DayInfo = Schemas['DayDto'];
export type Occurrence = Schemas['OccurrenceDto'];
export type EventData = Schemas['EventDto'];
export type EventInput = Schemas['EventInput'];
export type EditInput = Schemas['EditInput'];
export type EditScope = Schemas['EditScope'];
export type Shift = Schemas['BoardShift'];
export type Fields = Schemas['FieldsDto'];
export type MisfitChoice = Schemas['MisfitChoice'];
export type SeriesPlan = Schemas['PlanDto'];
export type Change = Schemas['ChangeDto'];
export type Timing = Schemas['TimingDto'];
export type Rule = Schemas['RuleDto'];
export type Follows = Schemas['FollowsDto'];
export type Facts = Schemas['FactsDto'];
export type EventLink = Schemas['LinkDto'];
export type EventFile = Schemas['FileDto'];
export type Picture = Schemas['PictureDto'];
export type People = Schemas['PeopleDto'];
export type Member = Schemas['MemberDto'];
export type Group = Schemas['GroupDto'];
export type Share = Schemas['ShareDto'];
export type SchoolRole = Schemas['SchoolRole'];
export type CalendarRole = Schemas['CalendarRole'];
export type WhoSees = Schemas['WhoSeesDto'];
export type Template = Schemas['TemplateDto'];
export type BulkInput = Schemas['BulkInput'];
export type Clash = Schemas['ClashDto'];
export type Proposal = Schemas['ProposalDto'];
export type Answer = Schemas['Answer'];
export type ProposedStep = Schemas['DateStep'];
export type HistoryEntry = Schemas['HistoryDto'];
export type Hit = Schemas['HitDto'];
export type ReadLine = Schemas['ReadLineDto'];
export type Lists = Schemas['ListsDto'];
export type Category = Schemas['CategoryDto'];
export type Place = Schemas['PlaceDto'];
export type BoardSettings = Schemas['BoardSettingsDto'];
export type SchoolYear = Schemas['SchoolYearDto'];
export type SchoolYearInput = Schemas['SchoolYearInput'];
export type YearPlan = Schemas['YearPlanDto'];
export type Dates = Schemas['DatesDto'];
export type Line = Schemas['LineDto'];
export type Publication = Schemas['PublicationDto'];
export type Choices = Schemas['ChoicesDto'];
export type PublicationInput = Schemas['PublicationInput'];
export type Look = Schemas['LookDto'];
export type Theme = Schemas['ThemeDto'];
export type OutletView = Schemas['OutletView'];
export type Proof = Schemas['ProofDto'];
export type OpeningRequest = Schemas['RequestDto'];
export type Differences = Schemas['DifferencesDto'];
export type Readings = Schemas['ReadingsDto'];
export type Links = Schemas['LinksDto'];
export type Session = Schemas['SessionDto'];
export type Installation = Schemas['InstallationDto'];
export type Invitation = Schemas['InvitationDto'];
export type Year = Schemas['YearDto'];
export type PersonSettings = Schemas['PersonSettingsDto'];
export type Account = Schemas['AccountDto'];
export type Mail = Schemas['MailDto'];
export type Source = Schemas['SourceDto'];
export type Origin = Schemas['OriginDto'];
export type SourceReading = Schemas['SourceReadingDto'];
export type SortingRule = Schemas['SortingRuleDto'];
export type SortBy = Schemas['SortBy'];
export type LaidOut = Schemas['LaidOutDto'];
export type Bringing = Schemas['BringingDto'];
export type BringingInput = Schemas['BringingInput'];
export type BringingRow = Schemas['BringingRowDto'];
export type IntakeKind = Schemas['IntakeKind'];
export type TableColumn = Schemas['TableColumn'];
export type FactorSetup = Schemas['FactorSetupDto'];

/** A request that knows all that it asks, from when it is made. */
class Asked extends Request {
  /** Null where it is more than text. */
  readonly asks: string | null;

  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(input, init);
    const body = init?.body ?? '';
    this.asks = typeof body === 'string' ? `${this.method} ${this.url} ${body}` : null;
  }
}

const going = new Map<string, Promise<() => Response>>();

/** An answer that is read once, for as many as asked. */
const read = async (response: Response): Promise<() => Response> => {
  const { status, statusText, headers } = response;
  const body = await response.arrayBuffer();
  return () => new Response(body.byteLength > 0 ? body : null, { status, statusText, headers });
};

/** What is asked for once more while it is being done, by a second press or a key that repeats, is done once. */
const once = (request: Request): Promise<Response> => {
  const asks = request instanceof Asked && request.method !== 'GET' ? request.asks : null;
  // Whoever goes back twice goes back two steps.
  if (asks === null || /\/(undo|redo) /.test(asks)) return fetch(request);
  let answer = going.get(asks);
  if (!answer) {
    answer = fetch(request)
      .then(read)
      .finally(() => going.delete(asks));
    going.set(asks, answer);
  }
  return answer.then((own) => own());
};

const client = createClient<paths>({ baseUrl: '/', fetch: once, Request: Asked });

/** A problem the server told of (RFC 9457), or that it could not be reached (code `unreachable`). */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly field?: string,
    readonly current?: unknown,
    readonly retryAfter?: number,
  ) {
    super(message);
  }
}

/** A change that was about a few events and nothing else. */
export interface OwnChange {
  change: string;
  ids: string[];
}

const made = new WeakMap<object, { step: string | undefined; change: OwnChange | undefined }>();
const madeBy = (answer: unknown) => (typeof answer === 'object' && answer !== null ? made.get(answer) : undefined);

/** The step that a change made on the server, by which it is taken back. */
export const stepOf = (answer: unknown): string | undefined => madeBy(answer)?.step;

/** What was changed with an answer, where it was a few events and nothing else. */
export const changeOf = (answer: unknown): OwnChange | undefined => madeBy(answer)?.change;

const unwrap = async <T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> => {
  let result;
  try {
    result = await call;
  } catch {
    throw new ApiProblem(0, 'unreachable', 'The server cannot be reached.');
  }
  if (result.response.ok) {
    const { headers } = result.response;
    const step = headers.get('Valtro-Step') ?? undefined;
    const [change, ...ids] = headers.get('Valtro-Changed')?.split(' ') ?? [];
    // What was done is known by its answer, also by one without content.
    const answer: unknown = result.data ?? (step || change ? {} : undefined);
    if (typeof answer === 'object' && answer !== null)
      made.set(answer, { step, change: change ? { change, ids } : undefined });
    return answer as T;
  }
  const problem = (result.error ?? {}) as { code?: string; detail?: string; field?: string; current?: unknown };
  const retryAfter = Number(result.response.headers.get('Retry-After')) || undefined;
  throw new ApiProblem(
    result.response.status,
    problem.code ?? 'failed',
    problem.detail ?? result.response.statusText,
    problem.field,
    problem.current,
    retryAfter,
  );
};

export const asProblem = (error: unknown): ApiProblem =>
  error instanceof ApiProblem ? error : new ApiProblem(0, 'failed', String(error));

/** What can be done to one date of a series. */
export type DateVerb = 'leave-out' | 'put-back' | 'call-off' | 'call-on' | 'as-others' | 'add-date' | 'remove-date';

const byId = (id: string) => ({ params: { path: { id } } });

export const api = {
  installation: () => unwrap(client.GET('/api/installation')),
  session: () => unwrap(client.GET('/api/session')),
  signIn: (email: string, password: string, code: string | null = null) =>
    unwrap(client.POST('/api/session', { body: { email, password, code } })),
  firstRun: (body: Schemas['FirstRunInput']) => unwrap(client.POST('/api/first-run', { body })),
  signOut: () => unwrap(client.DELETE('/api/session')),

  people: () => unwrap(client.GET('/api/people')),
  setSchoolRole: (id: string, role: SchoolRole) =>
    unwrap(client.PUT('/api/people/{id}/role', { ...byId(id), body: { role } })),
  removePerson: (id: string) => unwrap(client.DELETE('/api/people/{id}', byId(id))),
  invite: (email: string, role: SchoolRole) => unwrap(client.POST('/api/invitations', { body: { email, role } })),
  takeBackInvitation: (id: string) => unwrap(client.DELETE('/api/invitations/{id}', byId(id))),
  addGroup: (name: string) => unwrap(client.POST('/api/groups', { body: { name, personIds: [] } })),
  changeGroup: (id: string, body: Schemas['GroupChangeInput']) =>
    unwrap(client.PUT('/api/groups/{id}', { ...byId(id), body })),
  removeGroup: (id: string) => unwrap(client.DELETE('/api/groups/{id}', byId(id))),
  roles: (id: string) => unwrap(client.GET('/api/calendars/{id}/roles', byId(id))),
  setRole: (id: string, body: Schemas['ShareInput']) =>
    unwrap(client.PUT('/api/calendars/{id}/roles', { ...byId(id), body })),
  invitation: (token: string) => unwrap(client.POST('/api/invitation', { body: { token, password: null } })),
  acceptInvitation: (token: string, name: string, password: string) =>
    unwrap(client.POST('/api/invitation/accept', { body: { token, name, password } })),
  forgotten: (email: string, language: string) => unwrap(client.POST('/api/forgotten', { body: { email, language } })),
  newPassword: (token: string, password: string) =>
    unwrap(client.POST('/api/new-password', { body: { token, password } })),
  signOutElsewhere: () => unwrap(client.POST('/api/me/sign-out')),
  account: () => unwrap(client.GET('/api/me/account')),
  // Small, and often the last thing before another page: sent also when this one goes.
  keepSettings: (body: PersonSettings) => unwrap(client.PUT('/api/me/settings', { body, keepalive: true })),
  rename: (name: string) => unwrap(client.PUT('/api/me/name', { body: { name } })),
  changePassword: (current: string, password: string) =>
    unwrap(client.PUT('/api/me/password', { body: { current, password } })),
  wishEmail: (email: string, password: string) => unwrap(client.POST('/api/me/email', { body: { email, password } })),
  takeEmail: (token: string) => unwrap(client.POST('/api/new-address', { body: { token } })),
  beginFactor: (password: string) => unwrap(client.POST('/api/me/second-factor', { body: { password, code: null } })),
  confirmFactor: (password: string, code: string) =>
    unwrap(client.POST('/api/me/second-factor/confirm', { body: { password, code } })),
  recoveryCodes: (password: string, code: string) =>
    unwrap(client.POST('/api/me/second-factor/recovery-codes', { body: { password, code } })),
  factorOff: (password: string, code: string) =>
    unwrap(client.POST('/api/me/second-factor/off', { body: { password, code } })),
  mails: () => unwrap(client.GET('/api/mails')),
  unlockPerson: (id: string) => unwrap(client.DELETE('/api/people/{id}/second-factor', byId(id))),
  erasePerson: (id: string) => unwrap(client.POST('/api/people/{id}/erase', byId(id))),
  limits: () => unwrap(client.GET('/api/limits')),
  audit: (person: string | null, before: string | null) =>
    unwrap(client.GET('/api/audit', { params: { query: { ...(person && { person }), ...(before && { before }) } } })),
  handOver: (id: string, personId: string) =>
    unwrap(client.POST('/api/calendars/{id}/hand-over', { ...byId(id), body: { personId } })),

  /** The board with one's own eyes, or as an audience or a person sees it. */
  board: (from: string, to: string, look?: string | null) =>
    unwrap(client.GET('/api/board', { params: { query: { from, to, ...(look && { look }) } } })),
  whoSees: () => unwrap(client.GET('/api/who-sees')),
  /** A day, a time or a span of days as it was typed, read by the one reader there is. */
  typed: (text: string, near: string, language: string) =>
    unwrap(client.GET('/api/typed', { params: { query: { text, near, language } } })),
  year: (date: string) => unwrap(client.GET('/api/year', { params: { query: { date } } })),
  schoolYears: () => unwrap(client.GET('/api/school-years')),
  planYear: (id: string | null, body: SchoolYearInput) =>
    unwrap(client.POST('/api/school-years/plan', { params: { query: id ? { id } : {} }, body })),
  addYear: (body: SchoolYearInput) => unwrap(client.POST('/api/school-years', { body })),
  changeYear: (id: string, body: SchoolYearInput) =>
    unwrap(client.PUT('/api/school-years/{id}', { ...byId(id), body })),
  removeYear: (id: string, version: number) =>
    unwrap(client.DELETE('/api/school-years/{id}', { params: { path: { id }, query: { version } } })),
  checks: () => unwrap(client.GET('/api/checks')),
  checkEvent: (body: Schemas['ClashesRequest']) => unwrap(client.POST('/api/checks/event', { body })),
  acceptClash: (key: string, reason: string) => unwrap(client.POST('/api/checks/accept', { body: { key, reason } })),
  takeBackClash: (key: string) => unwrap(client.POST('/api/checks/take-back', { body: { key, reason: '' } })),
  history: (id: string) => unwrap(client.GET('/api/events/{id}/history', byId(id))),
  bin: () => unwrap(client.GET('/api/bin')),
  binnedCalendars: () => unwrap(client.GET('/api/bin/calendars')),
  /** Takes a step back; without one the last of one's own. */
  undo: (step: string | null = null) => unwrap(client.POST('/api/me/undo', { body: { step } })),
  /** Does a step again that was taken back; without one the last of these. */
  redo: (step: string | null = null) => unwrap(client.POST('/api/me/redo', { body: { step } })),
  search: (q: string) => unwrap(client.GET('/api/search', { params: { query: { q } } })),
  checkLinks: (addresses: string[]) => unwrap(client.POST('/api/links/check', { body: { addresses } })),
  templates: () => unwrap(client.GET('/api/templates')),
  addTemplate: (body: Schemas['TemplateInput']) => unwrap(client.POST('/api/templates', { body })),
  changeTemplate: (id: string, body: Schemas['TemplateInput']) =>
    unwrap(client.PUT('/api/templates/{id}', { ...byId(id), body })),
  removeTemplate: (id: string) => unwrap(client.DELETE('/api/templates/{id}', byId(id))),
  lists: () => unwrap(client.GET('/api/lists')),
  keepLists: (body: Lists) => unwrap(client.PUT('/api/lists', { body })),
  /** What the events of some changes are now, on a board's days. */
  boardChanged: (from: string, to: string, change: string[]) =>
    unwrap(client.GET('/api/board/changed', { params: { query: { from, to, change } } })),
  boardSettings: () => unwrap(client.GET('/api/me/board')),
  keepBoardSettings: (body: Partial<BoardSettings>) => unwrap(client.PATCH('/api/me/board', { body, keepalive: true })),
  zones: () => unwrap(client.GET('/api/zones')),

  addCalendar: (body: CalendarInput) => unwrap(client.POST('/api/calendars', { body })),
  changeCalendar: (id: string, body: CalendarInput) => unwrap(client.PUT('/api/calendars/{id}', { ...byId(id), body })),
  setReach: (id: string, reach: Reach, isOutOfSearch: boolean, version: number) =>
    unwrap(client.PUT('/api/calendars/{id}/reach', { ...byId(id), body: { ...reach, isOutOfSearch, version } })),
  calendarContents: (id: string) => unwrap(client.GET('/api/calendars/{id}/contents', byId(id))),
  binCalendar: (id: string, version: number) =>
    unwrap(client.DELETE('/api/calendars/{id}', { params: { path: { id }, query: { version } } })),
  restoreCalendar: (id: string) => unwrap(client.POST('/api/calendars/{id}/restore', byId(id))),

  /** What the fields of an event hold for which of its dates, with what was typed and moved. */
  fields: (id: string, body: Schemas['FieldsInput']) =>
    unwrap(client.POST('/api/events/{id}/fields', { ...byId(id), body })),
  event: (id: string) => unwrap(client.GET('/api/events/{id}', byId(id))),
  addEvent: (body: EventInput) => unwrap(client.POST('/api/events', { body })),
  editEvent: (id: string, body: EditInput) => unwrap(client.PUT('/api/events/{id}', { ...byId(id), body })),
  planEvent: (id: string, body: EditInput) => unwrap(client.POST('/api/events/{id}/plan', { ...byId(id), body })),
  putBack: (id: string, state: EventData, version: number) =>
    unwrap(client.POST('/api/events/{id}/undo', { ...byId(id), body: { state, version, added: [] } })),
  /** Some events as a file to keep. */
  takeOutEvents: (eventIds: string[]) =>
    unwrap(client.POST('/api/export/events', { body: { eventIds }, parseAs: 'blob' })),
  changeMany: (body: BulkInput) => unwrap(client.POST('/api/events/bulk', { body })),
  binEvent: (id: string, version: number) =>
    unwrap(client.DELETE('/api/events/{id}', { params: { path: { id }, query: { version } } })),
  restoreEvent: (id: string) => unwrap(client.POST('/api/events/{id}/restore', byId(id))),
  onDate: (id: string, verb: DateVerb, date: string, version: number) =>
    unwrap(client.POST(`/api/events/{id}/${verb}`, { ...byId(id), body: { date, version } })),
  dates: (body: Schemas['DatesRequest']) => unwrap(client.POST('/api/events/dates', { body })),
  rule: (text: string, zone: string | null) => unwrap(client.POST('/api/rule', { body: { text, zone } })),
  lines: (body: Schemas['LinesRequest']) => unwrap(client.POST('/api/lines', { body })),
  addMany: (events: EventInput[]) => unwrap(client.POST('/api/events/many', { body: { events } })),
  line: (body: Schemas['LineRequest']) => unwrap(client.POST('/api/line', { body })),

  /** The calendars whose keepers would be asked, and who they are. */
  readerMail: () => unwrap(client.GET('/api/reader-mail')),
  setReaderMail: (isOn: boolean) => unwrap(client.PUT('/api/reader-mail', { body: { isOn } })),
  openingRequests: () => unwrap(client.GET('/api/opening-requests')),
  askToOpen: (body: Schemas['RequestInput']) => unwrap(client.POST('/api/opening-requests', { body })),
  answerRequest: (id: string, given: Detail, remark: string) =>
    unwrap(client.POST('/api/opening-requests/{id}/answer', { ...byId(id), body: { given, remark } })),
  sharePublication: (id: string, people: string[], version: number) =>
    unwrap(client.PUT('/api/publications/{id}/shares', { ...byId(id), body: { people, version } })),
  keepers: (id: string) => unwrap(client.GET('/api/calendars/{id}/keepers', byId(id))),
  asked: (calendarId: string, alsoIn: string[], eventId: string | null) =>
    unwrap(
      client.GET('/api/proposals/asked', { params: { query: { calendarId, alsoIn, ...(eventId && { eventId }) } } }),
    ),
  opened: (reach: Reach, audience: Audience, detail: Detail) =>
    unwrap(client.POST('/api/reach/opened', { body: { reach, audience, detail } })),
  eventReach: (body: Schemas['EventReachInput']) => unwrap(client.POST('/api/reach/event', { body })),
  sampleTitle: (query: { pattern: string; title: string; calendar: string; tag: string; place: string }) =>
    unwrap(client.GET('/api/publications/title', { params: { query } })),
  sharedPlaces: (from: string, to: string) =>
    unwrap(client.GET('/api/board/shared-places', { params: { query: { from, to } } })),
  proposals: () => unwrap(client.GET('/api/proposals')),
  offer: (event: EventInput, remark: string) =>
    unwrap(client.POST('/api/proposals', { body: { event, remark, version: null } })),
  offerChange: (eventId: string, edit: EditInput, remark: string) =>
    unwrap(client.POST('/api/proposals/change/{eventId}', { params: { path: { eventId } }, body: { edit, remark } })),
  copyEvent: (eventId: string, body: Schemas['CopyInput']) =>
    unwrap(client.POST('/api/proposals/copy/{eventId}', { params: { path: { eventId } }, body })),
  offerStep: (eventId: string, body: Schemas['OfferStepInput']) =>
    unwrap(client.POST('/api/proposals/step/{eventId}', { params: { path: { eventId } }, body })),
  revise: (id: string, event: EventInput, remark: string, version: number) =>
    unwrap(client.PUT('/api/proposals/{id}', { ...byId(id), body: { event, remark, version } })),
  withdraw: (id: string) => unwrap(client.DELETE('/api/proposals/{id}', byId(id))),
  answer: (id: string, body: Schemas['AnswerInput']) =>
    unwrap(client.POST('/api/proposals/{id}/answer', { ...byId(id), body })),
  reopen: (id: string, calendarIds: string[]) =>
    unwrap(client.POST('/api/proposals/{id}/reopen', { ...byId(id), body: { calendarIds } })),
  proposalClashes: (id: string) => unwrap(client.GET('/api/proposals/{id}/clashes', byId(id))),

  /** Files that were brought in. */
  brought: () => unwrap(client.GET('/api/bringing')),
  /** What bringing in a file that lies ready would do. */
  lookBringing: (id: string, body: BringingInput) =>
    unwrap(client.POST('/api/bringing/{id}/look', { ...byId(id), body })),
  bringIn: (id: string, body: BringingInput) => unwrap(client.POST('/api/bringing/{id}', { ...byId(id), body })),
  clearBringing: (id: string) => unwrap(client.DELETE('/api/bringing/{id}', byId(id))),
  sources: () => unwrap(client.GET('/api/sources')),
  lookAtAddress: (address: string) => unwrap(client.POST('/api/sources/look', { body: { address } })),
  follow: (body: Schemas['FollowInput']) => unwrap(client.POST('/api/sources', { body })),
  changeSource: (id: string, body: Schemas['SourceInput']) =>
    unwrap(client.PUT('/api/sources/{id}', { ...byId(id), body })),
  readSource: (id: string, isEmptyRight: boolean) =>
    unwrap(client.POST('/api/sources/{id}/read', { ...byId(id), body: { isEmptyRight } })),
  sourceReadings: (id: string) => unwrap(client.GET('/api/sources/{id}/readings', byId(id))),
  stopSource: (id: string, keeps: boolean) =>
    unwrap(client.POST('/api/sources/{id}/stop', { ...byId(id), body: { keeps } })),
  trySorting: (id: string, rules: SortingRule[], version: number) =>
    unwrap(client.POST('/api/sources/{id}/sorting/try', { ...byId(id), body: { rules, version } })),
  sortSource: (id: string, rules: SortingRule[], version: number) =>
    unwrap(client.PUT('/api/sources/{id}/sorting', { ...byId(id), body: { rules, version } })),
  /** Where an event comes from; null when it was made here. */
  origin: async (id: string) =>
    ((await unwrap(client.GET('/api/events/{id}/origin', byId(id)))) as Origin | undefined) ?? null,

  publications: () => unwrap(client.GET('/api/publications')),
  addPublication: (body: PublicationInput) => unwrap(client.POST('/api/publications', { body })),
  changePublication: (id: string, body: PublicationInput) =>
    unwrap(client.PUT('/api/publications/{id}', { ...byId(id), body })),
  replaceLink: (id: string, version: number) =>
    unwrap(client.POST('/api/publications/{id}/key', { ...byId(id), body: { key: null, version } })),
  duplicatePublication: (id: string) => unwrap(client.POST('/api/publications/{id}/duplicate', byId(id))),
  takeOut: (id: string, calendarId: string) =>
    unwrap(client.POST('/api/publications/{id}/take-out', { ...byId(id), body: { calendarId } })),
  handOverPublication: (id: string, personId: string, version: number) =>
    unwrap(client.POST('/api/publications/{id}/hand-over', { ...byId(id), body: { personId, version } })),
  takeDown: (id: string) => unwrap(client.POST('/api/publications/{id}/take-down', byId(id))),
  putUp: (id: string) => unwrap(client.POST('/api/publications/{id}/put-up', byId(id))),
  publishChanges: (id: string, version: number) =>
    unwrap(client.POST('/api/publications/{id}/publish', { ...byId(id), body: { version } })),
  discardChanges: (id: string, version: number) =>
    unwrap(client.POST('/api/publications/{id}/discard', { ...byId(id), body: { version } })),
  nameLink: (id: string, key: string, version: number) =>
    unwrap(client.POST('/api/publications/{id}/key', { ...byId(id), body: { key, version } })),
  publicationsForMembers: () => unwrap(client.GET('/api/publications/for-members')),
  myLink: (id: string, isNew = false) =>
    unwrap(client.POST('/api/publications/{id}/my-link', { ...byId(id), body: { isNew } })),
  proof: (id: string, draft: boolean) =>
    unwrap(client.GET('/api/publications/{id}/proof', { params: { path: { id }, query: { draft } } })),
  readings: (id: string) => unwrap(client.GET('/api/publications/{id}/readings', byId(id))),
};
