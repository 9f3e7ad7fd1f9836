import { toDataURL } from 'qrcode';
import { z } from 'zod';
import { idSchema } from '$lib/core/forms/id';
import { invitationSchema, ownSettingsSchema, teamNameSchema } from '$lib/core/people/forms';
import { quietSchema } from '$lib/core/people/quiet';
import { roles } from '$lib/core/people/rights';
import { Refusal } from '$lib/core/problem/problem';
import { accountAccessSchema } from '../people/account-right';
import { allProfiles, type Profile } from '../people/people';
import { newFactor } from '../people/second-factor';
import { titlesFor } from '../boards/permit';
import { invite, inviteAgain, requireProfile } from '../workspace/invite';
import {
  changePerson,
  disablePerson,
  enablePerson,
  signOutEverywhere,
  takeFactorFrom
} from '../workspace/manage-people';
import {
  changeOwnPassword,
  changeOwnSettings,
  endOthers,
  endOwnSession,
  ownSessions,
  removeOwnFactor,
  renewOwnCodes,
  setOwnFactor,
  type Own
} from '../workspace/own';
import { addTeam, allTeams, changeTeam, giveBoardToTeam, removeTeam } from '../workspace/teams';
import { boardFor } from './board-of-call';
import { instant, operationsOf, type Call } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('People');

/** How somebody stands: invited people have not joined yet. */
const states = ['active', 'invited', 'disabled'] as const;

const personAnswer = z.object({
  id: z.int(),
  name: z.string(),
  displayName: z.string(),
  role: z.enum(roles),
  zone: z.string(),
  state: z.enum(states)
});

/** How somebody stands. @example stateOf(profile) // 'invited' */
export const stateOf = ({ disabledAt, hasPassword, byIssuer }: Profile): (typeof states)[number] =>
  disabledAt !== null ? 'disabled' : hasPassword || byIssuer ? 'active' : 'invited';

const answered = (profile: Profile): z.output<typeof personAnswer> => {
  const { id, name, displayName, role, zone } = profile;
  return { id, name, displayName, role, zone, state: stateOf(profile) };
};

const thing = z.object({ id: z.int(), name: z.string() });
const teamAnswer = thing.extend({
  memberIds: z.array(z.int()),
  alarms: z.array(thing),
  boards: z.array(thing),
  rotas: z.array(thing)
});

/** Whoever calls, to change what is theirs. @throws Refusal `not-signed-in` for a program */
function own({ server, signedIn, address }: Call<unknown, unknown, unknown>): Own {
  if (signedIn === null)
    throw new Refusal('not-signed-in', 'This is for people who have signed in.', 'Sign in; no key may do it.');
  const { db, clock, changes, secrets, signIn } = server;
  return { db, clock, changes, secrets, signIn, address, ...signedIn };
}

const sessionAnswer = z.object({
  id: z.int(),
  isThis: z.boolean(),
  createdAt: instant,
  expiresAt: instant,
  address: z.string(),
  agent: z.string()
});
const secret = z.string().max(200);
const codesAnswer = z.object({
  codes: z.array(z.string()).describe('For recovery; each counts once. Shown only now.')
});
const givenTeam = z.strictObject({ teamId: idSchema.nullable() });

export const peopleOperations = [
  operation('GET', '/people', {
    list: wholeList('people'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists people.',
    answer: z.object({ people: z.array(personAnswer) }),
    handle: async ({ server: { db } }) => ({ people: (await allProfiles(db)).map(answered) })
  }),
  operation('POST', '/people', {
    right: 'administrator',
    scope: null,
    summary: 'Invites somebody by mail.',
    body: invitationSchema,
    answer: personAnswer,
    status: 201,
    handle: async ({ server, body, author }) => answered(await invite(server, body, author))
  }),
  operation('PUT', '/people/{id}', {
    right: 'administrator',
    scope: null,
    summary:
      'Changes the role and the teams of somebody, whose lines they may read, and on whose resources they may act.',
    body: z.strictObject({
      role: z.enum(roles),
      teamIds: z.array(idSchema).max(50),
      lines: accountAccessSchema
        .nullable()
        .optional()
        .describe('Accounts whose lines they may read, or all; null for as the role says. Left as it is without it.'),
      acts: accountAccessSchema
        .nullable()
        .optional()
        .describe(
          'Accounts on whose resources they may act, or all; null for as the role says. Left as it is without it.'
        )
    }),
    answer: personAnswer,
    handle: async ({ server, params: { id }, body }) => answered(await changePerson(server, id, body))
  }),
  operation('POST', '/people/{id}/invite-again', {
    right: 'administrator',
    scope: null,
    summary: 'Sends an invitation again. The link before counts no more.',
    handle: ({ server, params: { id }, author }) => inviteAgain(server, id, author)
  }),
  operation('POST', '/people/{id}/disable', {
    right: 'administrator',
    scope: null,
    summary: 'Disables somebody. Their turns, shifts to come and places in routes go to somebody else.',
    body: z.strictObject({ successorId: idSchema.nullable() }),
    handle: ({ server, params: { id }, body: { successorId }, author }) =>
      disablePerson(server, id, successorId, author.displayName)
  }),
  operation('POST', '/people/{id}/enable', {
    right: 'administrator',
    scope: null,
    summary: 'Lets somebody in again who was disabled.',
    handle: ({ server, params: { id } }) => enablePerson(server, id)
  }),
  operation('DELETE', '/people/{id}/sessions', {
    right: 'administrator',
    scope: null,
    summary: 'Signs somebody out everywhere.',
    answer: z.object({ ended: z.int() }),
    handle: async ({ server, params: { id } }) => ({ ended: await signOutEverywhere(server, id) })
  }),
  operation('DELETE', '/people/{id}/second-factor', {
    right: 'administrator',
    scope: null,
    summary: 'Takes the second factor from somebody who lost it.',
    handle: ({ server, params: { id } }) => takeFactorFrom(server, id)
  }),
  operation('GET', '/me', {
    right: 'viewer',
    summary: 'Reads who has signed in, with what they set up for themselves.',
    answer: personAnswer.extend({
      mail: z.string().nullable(),
      dateLocale: z.string().describe('In which language dates are written.'),
      quiet: quietSchema.nullable(),
      hasFactor: z.boolean(),
      codesLeft: z.int()
    }),
    handle: async (call) => {
      const { db, personId } = own(call);
      const profile = await requireProfile(db, personId);
      const { mail, dateLocale, quiet, hasFactor, codesLeft } = profile;
      return { ...answered(profile), mail, dateLocale, quiet, hasFactor, codesLeft };
    }
  }),
  operation('PUT', '/me', {
    right: 'viewer',
    summary: 'Changes the name, time zone, language of dates and quiet hours of whoever has signed in.',
    body: ownSettingsSchema,
    answer: personAnswer,
    handle: async (call) => answered(await changeOwnSettings(own(call), call.body))
  }),
  operation('POST', '/me/password', {
    right: 'viewer',
    summary: 'Changes the password of whoever has signed in. All other sessions end.',
    body: z.strictObject({ password: secret, newPassword: secret }),
    handle: (call) => changeOwnPassword(own(call), call.body.password, call.body.newPassword)
  }),
  operation('GET', '/me/sessions', {
    list: wholeList('sessions'),
    right: 'viewer',
    summary: 'Lists the sessions of whoever has signed in.',
    answer: z.object({ sessions: z.array(sessionAnswer) }),
    handle: async (call) => {
      const mine = own(call);
      const sessions = await ownSessions(mine);
      return { sessions: sessions.map(({ key, ...rest }) => ({ ...rest, isThis: key === mine.sessionKey })) };
    }
  }),
  operation('DELETE', '/me/sessions', {
    right: 'viewer',
    summary: 'Ends all sessions of whoever has signed in but this one.',
    answer: z.object({ ended: z.int() }),
    handle: async (call) => ({ ended: await endOthers(own(call)) })
  }),
  operation('DELETE', '/me/sessions/{id}', {
    right: 'viewer',
    summary: 'Ends a session of whoever has signed in.',
    handle: (call) => endOwnSession(own(call), call.params.id)
  }),
  operation('POST', '/me/second-factor/new', {
    right: 'viewer',
    isAct: false,
    summary: 'Makes a secret for a second factor (RFC 6238), with its picture. Nothing is changed.',
    answer: z.object({
      secret: z.string(),
      uri: z.string(),
      picture: z.string().describe('A QR code, as a data URL.')
    }),
    handle: async (call) => {
      const { db, personId } = own(call);
      const made = newFactor((await requireProfile(db, personId)).name);
      return { ...made, picture: await toDataURL(made.uri, { margin: 2, scale: 5 }) };
    }
  }),
  operation('PUT', '/me/second-factor', {
    right: 'viewer',
    summary: 'Sets a second factor, proved by one of its codes. All other sessions end.',
    body: z.strictObject({ password: secret, secret: z.string().regex(/^[A-Z2-7]{32}$/), code: z.string().max(20) }),
    answer: codesAnswer,
    handle: async (call) => ({ codes: await setOwnFactor(own(call), call.body) })
  }),
  operation('POST', '/me/second-factor/remove', {
    right: 'viewer',
    summary: 'Removes the second factor of whoever has signed in.',
    body: z.strictObject({ password: secret }),
    handle: (call) => removeOwnFactor(own(call), call.body.password)
  }),
  operation('POST', '/me/recovery-codes', {
    right: 'viewer',
    summary: 'Makes other recovery codes, for a code of the second factor. Those before count no more.',
    body: z.strictObject({ code: z.string().max(30) }),
    answer: codesAnswer,
    handle: async (call) => ({ codes: await renewOwnCodes(own(call), call.body.code) })
  }),
  operation('GET', '/teams', {
    list: wholeList('teams'),
    right: 'viewer',
    scope: 'read',
    summary: 'Lists teams, with their members and what they own.',
    answer: z.object({ teams: z.array(teamAnswer) }),
    handle: async ({ server: { db }, reader }) => {
      const seen = await titlesFor(db, reader);
      return {
        teams: await allTeams(
          db,
          seen.map(({ id }) => id)
        )
      };
    }
  }),
  operation('POST', '/teams', {
    right: 'administrator',
    summary: 'Makes a team.',
    body: z.strictObject({ name: teamNameSchema }),
    answer: teamAnswer,
    status: 201,
    handle: ({ server, body: { name }, author }) => addTeam(server, name, author.displayName)
  }),
  operation('PUT', '/teams/{id}', {
    right: 'administrator',
    summary: 'Changes the name and the members of a team.',
    body: z.strictObject({ name: teamNameSchema, memberIds: z.array(idSchema).max(500) }),
    answer: teamAnswer,
    handle: ({ server, params: { id }, body }) => changeTeam(server, id, body)
  }),
  operation('DELETE', '/teams/{id}', {
    right: 'administrator',
    summary: 'Removes a team. What it owned is nobody’s.',
    handle: ({ server, params: { id } }) => removeTeam(server, id)
  }),
  operation('PUT', '/boards/{id}/team', {
    right: 'viewer',
    scope: 'change',
    summary: 'Gives a board to a team, or to none.',
    body: givenTeam,
    handle: async (call) => giveBoardToTeam(call.server.db, (await boardFor(call, 'edit')).id, call.body.teamId)
  })
];
