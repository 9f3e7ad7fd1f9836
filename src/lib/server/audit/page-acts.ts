/** What the actions of pages do, in words, by their routes and names. Those with null change nothing that anybody would look for. */
const acts: Readonly<Record<string, Readonly<Record<string, string | null>>>> = {
  '/sign-in': { default: null }, // recorded with the name that was typed
  '/sign-in/second-factor': { default: null },
  '/sign-out': { default: 'Signs out' },
  '/confirm/[token]': { default: 'Confirms a channel by its link' },
  '/leave/[token]': { default: 'Leaves a topic by the link of a message' },
  '/first/[token]': { default: 'Becomes the first administrator' },
  '/join/[token]': { default: 'Joins by an invitation' },
  '/reset': { default: 'Asks for a link to reset a password' },
  '/reset/[token]': { default: 'Sets a new password by a link' },
  '/a/[token]': { default: 'Acknowledges by the link of a message' },
  '/(app)/derived': {
    on: 'Switches a derived metric on',
    off: 'Switches a derived metric off',
    backfill: 'Has the past of a derived metric computed',
    remove: 'Removes a derived metric'
  },
  '/(app)/channels': {
    add: 'Adds a channel',
    sendAgain: 'Sends the confirmation of a channel again',
    confirm: 'Confirms a channel',
    test: 'Sends a test',
    secret: 'Renews the secret of a channel',
    remove: 'Removes a channel'
  },
  '/(app)/channels/[id=number]': {
    add: 'Adds a subscriber to a topic',
    sendAgain: 'Sends the confirmation of a subscriber again',
    confirm: 'Confirms a subscriber',
    remove: 'Removes a subscriber from a topic'
  },
  '/(app)/receive': { make: 'Makes a key', revoke: 'Revokes a key' },
  '/(app)/alarms/new': { save: 'Makes an alarm' },
  '/(app)/alarms/[id=number]': { save: 'Changes an alarm', remove: 'Removes an alarm' },
  '/(app)/signals': { remove: 'Removes a signal' },
  '/(app)/coverage': {
    choose: 'Chooses what is collected of a resource',
    service: 'Switches the collecting of a service',
    guests: 'Switches the measuring inside machines'
  },
  '/(app)/boards/[id=number]': { remove: 'Removes a board' },
  '/(app)/outbox': { resend: 'Sends a message again' },
  '/(app)/accounts': { erase: 'Erases what is left of a removed account' },
  '/(app)/accounts/new': {
    test: null,
    connect: 'Connects an account',
    connectAnyway: 'Connects an account in spite of a failed test'
  },
  '/(app)/accounts/[id=number]': {
    test: null,
    credential: 'Replaces the credential of an account',
    remove: 'Removes an account',
    discover: 'Looks for resources of an account',
    plan: 'Changes the plan of an account',
    price: 'Changes a price of an account',
    guests: 'Switches the measuring inside machines'
  },
  '/(app)/groups/new': { save: 'Makes a group' },
  '/(app)/groups/[id=number]': { save: 'Changes a group', remove: 'Removes a group' }
};

/**
 * What an action of a page does, in words.
 *
 * @returns null for what is not recorded
 * @example wordsOfPageAct('/(app)/receive', 'revoke') // 'Revokes a key'
 */
export function wordsOfPageAct(route: string, action: string): string | null {
  const ofRoute = Object.hasOwn(acts, route) ? acts[route] : undefined;
  return ofRoute && Object.hasOwn(ofRoute, action) ? (ofRoute[action] ?? null) : null;
}

/** Routes with their actions that have words, or that are left out on purpose. */
export const knownPageActs: Readonly<Record<string, readonly string[]>> = Object.fromEntries(
  Object.entries(acts).map(([route, ofRoute]) => [route, Object.keys(ofRoute)])
);
