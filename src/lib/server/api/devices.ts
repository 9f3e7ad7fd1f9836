import { z } from 'zod';
import { pushSubscriptionSchema } from '$lib/core/notify';
import { Refusal } from '$lib/core/problem/problem';
import { addDevice, devicesOf, removeDevice } from '../notify/devices';
import { sendTest } from '../notify/manage-channels';
import { addOwnAddress, askOwnAddressAgain, confirmOwnAddress, requireOwnAddress } from '../notify/own-addresses';
import { pushKeys } from '../notify/push-keys';
import { removeChannel } from '../routing/remove-channel';
import { instant, operationsOf, type Caller } from './operation';
import { wholeList } from './paging';

const operation = operationsOf('People');

const deviceAnswer = z.object({
  id: z.int(),
  name: z.string(),
  address: z.string().describe('Without what is secret in it.'),
  confirmedAt: instant.nullable().describe('Null once it no longer takes notifications.')
});

/** Devices are those of whoever is signed in: a key is nobody. */
function personOf({ signedIn, author }: Caller): { readonly id: number; readonly displayName: string } {
  if (signedIn === null) throw new Refusal('not-allowed', 'A key has no devices.', 'Sign in as a person.');
  return { id: signedIn.personId, displayName: author.displayName };
}

export const deviceOperations = [
  operation('POST', '/me/addresses', {
    right: 'viewer',
    summary: 'Adds a mail address or telephone number by which the caller is reached, and sends what confirms it.',
    body: z.discriminatedUnion('kind', [
      z.strictObject({ kind: z.literal('email'), address: z.string().max(200) }),
      z.strictObject({ kind: z.literal('text-message'), address: z.string().max(40) })
    ]),
    answer: deviceAnswer,
    status: 201,
    handle: (call) => addOwnAddress(call.server, personOf(call), call.body)
  }),
  operation('POST', '/me/addresses/{id}/confirm', {
    right: 'viewer',
    summary: 'Confirms a telephone number of the caller by the code that was sent to it.',
    body: z.strictObject({ code: z.string().max(20) }),
    answer: deviceAnswer,
    handle: (call) => confirmOwnAddress(call.server, personOf(call), call.params.id, call.body.code)
  }),
  operation('POST', '/me/addresses/{id}/send-again', {
    right: 'viewer',
    summary: 'Sends what confirms an address of the caller once more.',
    answer: deviceAnswer,
    handle: (call) => askOwnAddressAgain(call.server, personOf(call), call.params.id)
  }),
  operation('DELETE', '/me/addresses/{id}', {
    right: 'viewer',
    summary: 'Removes an address of the caller.',
    handle: async (call) => {
      const { id } = await requireOwnAddress(call.server, personOf(call), call.params.id);
      await removeChannel(call.server, id);
    }
  }),
  operation('GET', '/me/devices/key', {
    right: 'viewer',
    summary: 'Reads the public key by which browsers know the notifications of this Bussola (RFC 8292).',
    answer: z.object({ publicKey: z.string().describe('In base64url.') }),
    handle: async ({ server: { db, secrets } }) => ({ publicKey: (await pushKeys(db, secrets)).publicKey })
  }),
  operation('GET', '/me/devices', {
    list: wholeList('devices'),
    right: 'viewer',
    summary: 'Lists the devices on which the caller gets notifications.',
    answer: z.object({ devices: z.array(deviceAnswer) }),
    handle: async (call) => ({ devices: await devicesOf(call.server.db, personOf(call).id) })
  }),
  operation('POST', '/me/devices', {
    right: 'viewer',
    summary: 'Adds a device of the caller, with what its browser gives by the Push API.',
    body: z.strictObject({
      name: z.string().trim().min(1, { error: 'Name the device, such as Phone.' }).max(40),
      subscription: pushSubscriptionSchema
    }),
    answer: deviceAnswer,
    status: 201,
    handle: (call) => addDevice(call.server, personOf(call), call.body.name, call.body.subscription)
  }),
  operation('POST', '/me/devices/{id}/test', {
    right: 'viewer',
    summary: 'Sends a test to a device of the caller.',
    answer: z.object({ messageId: z.int() }),
    status: 202,
    handle: async (call) => {
      const { server, params, author } = call;
      if (!(await devicesOf(server.db, personOf(call).id)).some(({ id }) => id === params.id))
        throw new Refusal('not-found', 'There is no such device.', 'It may have been removed.');
      return { messageId: await sendTest(server, params.id, author) };
    }
  }),
  operation('DELETE', '/me/devices/{id}', {
    right: 'viewer',
    summary: 'Removes a device of the caller.',
    handle: (call) => removeDevice(call.server, personOf(call).id, call.params.id)
  })
];
