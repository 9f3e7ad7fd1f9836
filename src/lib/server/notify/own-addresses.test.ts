import { expect } from 'chai';
import { withHouse } from '../../../../tests/support/bussola';
import { codeOfRefusal as codeOf, newPerson, tokenInMail } from '../../../../tests/support/people';
import { until } from '../../../../tests/support/until';
import { invite, setPasswordByLink } from '../workspace/invite';
import { allChannels, removeChannel } from './channels';
import { addOwnAddress, askOwnAddressAgain, confirmOwnAddress, requireOwnAddress } from './own-addresses';

describe('addresses that people add for themselves', () => {
  const house = withHouse();
  const mine = async (name: string) => {
    const { id, displayName } = await newPerson(house, name);
    return { id, displayName };
  };
  const ofPerson = async (id: number) =>
    (await allChannels(house.bussola.db)).filter(({ personId }) => personId === id);
  const mail = (address: string) => ({ kind: 'email', address }) as const;

  it('belong to whoever adds them, are asked, and confirmed by the code that was sent', async () => {
    const nerea = await mine('nerea');
    const number = await addOwnAddress(house.bussola, nerea, { kind: 'text-message', address: '+4690510000' });
    expect([number.personId, number.confirmedAt]).to.deep.equal([nerea.id, null]);
    const text = await until('the code', () => house.standIns.phone.messages.all[0]);
    const code = /\b\d{6}\b/.exec(text.text)?.[0] ?? '';
    expect(await codeOf(confirmOwnAddress(house.bussola, nerea, number.id, '000000'))).to.equal('invalid');
    expect((await confirmOwnAddress(house.bussola, nerea, number.id, code)).confirmedAt).to.equal(house.clock.now());
  });

  it('are nobody else’s business: not to confirm, ask again or take', async () => {
    const [ivo, oda] = [await mine('ivo'), await mine('oda')];
    const { id } = await addOwnAddress(house.bussola, ivo, mail('private@ivo.test'));
    for (const work of [
      confirmOwnAddress(house.bussola, oda, id, '123456'),
      askOwnAddressAgain(house.bussola, oda, id),
      requireOwnAddress(house.bussola, oda, id),
      requireOwnAddress(house.bussola, ivo, 999_999)
    ])
      expect(await codeOf(work)).to.equal('not-found');
    expect((await requireOwnAddress(house.bussola, ivo, id)).id).to.equal(id);
    expect(await codeOf(addOwnAddress(house.bussola, oda, mail('private@ivo.test'))), 'it is there').to.equal(
      'name-taken'
    );
  });

  it('are refused where they are no address, or that of somebody else who signs in with it', async () => {
    const [mira, lars] = [await mine('mira'), await mine('lars')];
    for (const address of [
      '',
      'mira',
      'mira@',
      'a@example.test\r\nBcc: b@example.test',
      `${'x'.repeat(300)}@example.test`
    ])
      expect(await codeOf(addOwnAddress(house.bussola, mira, mail(address))), address).to.equal('invalid');
    for (const address of ['+4', '0690510000', '+46 90 510 00 00 x', 'call me'])
      expect(await codeOf(addOwnAddress(house.bussola, mira, { kind: 'text-message', address })), address).to.equal(
        'invalid'
      );
    expect(await codeOf(addOwnAddress(house.bussola, mira, mail('Lars@Example.test')))).to.equal('invalid');
    expect(await codeOf(addOwnAddress(house.bussola, lars, mail('lars@example.test'))), 'their own').to.equal('done');
    expect(await ofPerson(mira.id)).to.deep.equal([]);
  });

  it('are ten at most, and another fits once one is removed', async () => {
    const kaja = await mine('kaja');
    for (let index = 0; index < 10; index++) await addOwnAddress(house.bussola, kaja, mail(`kaja-${index}@many.test`));
    expect(await codeOf(addOwnAddress(house.bussola, kaja, mail('kaja-10@many.test')))).to.equal('invalid');
    await removeChannel(house.bussola.db, (await ofPerson(kaja.id))[0]?.id ?? 0);
    expect(await codeOf(addOwnAddress(house.bussola, kaja, mail('kaja-10@many.test')))).to.equal('done');
    expect(await ofPerson(kaja.id)).to.have.length(10);
  });

  it('that somebody claims and never confirms keep nobody from being invited by them', async () => {
    const claims = await mine('claims');
    await addOwnAddress(house.bussola, claims, mail('ines@example.test'));
    const ines = await invite(
      house.bussola,
      { name: 'ines', displayName: 'Ines Falk', mail: 'ines@example.test', role: 'viewer', teamIds: [] },
      { id: claims.id, displayName: claims.displayName }
    );
    const token = await until('the invitation', () => {
      try {
        return tokenInMail(house, 'ines@example.test', '/join/');
      } catch {
        return false;
      }
    });
    await setPasswordByLink(house.bussola, 'invitation', token, {
      ...{ password: 'nine buoys on a grey bay', zone: 'UTC' }
    });
    const [own] = await ofPerson(ines.id);
    expect([own?.address, own?.confirmedAt !== null]).to.deep.equal(['ines@example.test', true]);
    expect(await ofPerson(claims.id), 'whoever claimed it has it no longer').to.deep.equal([]);
  });
});
