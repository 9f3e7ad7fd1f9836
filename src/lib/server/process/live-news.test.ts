import { expect } from 'chai';
import { until } from '../../../../tests/support/until';
import { Changes } from '../base/changes';
import { liveNews } from './live-news';

describe('news of changes', () => {
  it('of each kind reach who may see them; of boards that somebody may not see they hear only that something changed', async () => {
    const changes = new Changes();
    const heard: [string, Record<string, unknown>][] = [];
    const news = liveNews({
      changes,
      maySee: (boardId) => (boardId === 9 ? Promise.reject(new Error('gone')) : Promise.resolve(boardId === 1)),
      send: (event, data) => heard.push([event, { ...data }])
    });
    changes.tell('samples', { accountId: 5 });
    changes.tell('account', { accountId: 5 });
    changes.tell('alarm', { alarmId: 6 });
    changes.tell('outbox', { channelId: 7 });
    changes.tell('board', { boardId: 1 });
    changes.tell('board', { boardId: 2 });
    changes.tell('mark', { markId: 3, boardId: null });
    changes.tell('mark', { markId: 4, boardId: 1 });
    changes.tell('mark', { markId: 5, boardId: 2 });
    changes.tell('board', { boardId: 9 });
    changes.tell('session', { key: 'secret' });
    changes.tell('samples', { accountId: 8 });
    await until('all', () => heard.length === 11);
    expect(heard).to.deep.equal([
      ['samples', { accountId: 5, version: 1 }],
      ['account', { accountId: 5, version: 2 }],
      ['alarm', { alarmId: 6, version: 3 }],
      ['outbox', { channelId: 7, version: 4 }],
      ['board', { boardId: 1, version: 5 }],
      ['other', { version: 6 }],
      ['mark', { markId: 3, boardId: null, version: 7 }],
      ['mark', { markId: 4, boardId: 1, version: 8 }],
      ['other', { version: 9 }],
      ['other', { version: 10 }],
      ['samples', { accountId: 8, version: 11 }]
    ]);
    news.stop();
    changes.tell('samples', { accountId: 5 });
    expect(heard).to.have.length(11);
  });
});
