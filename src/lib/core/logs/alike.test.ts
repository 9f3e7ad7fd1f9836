import { expect } from 'chai';
import { day, hour, instant, range } from '../time';
import { shapeNews, shapeText, together, type FoundShape } from './alike';
import { shapeWords } from './shapes';

const now = instant(1_777_881_600_000);
const lastHour = range(instant(now - hour), now);
const shape = (more: Partial<FoundShape>): FoundShape => ({
  ...{ streamId: 1, shape: 1, text: '', count: 100, all: 100, lastAt: now },
  firstAt: instant(now - 10 * day),
  streamSince: instant(now - 10 * day),
  ...more
});

describe('lines that are alike', () => {
  it('read as programs write them', () => {
    for (const [line, text] of [
      ['level=info took=18ms, ok', 'level=info took=‹duration›, ok'],
      ['cannot allocate 64 MiB for (deck 12): no room.', 'cannot allocate ‹size› for (deck ‹number›): no room.'],
      ['msg="seats did not answer" of=3', 'msg="seats did not answer" of=‹number›'],
      ['plain words', 'plain words']
    ] as const)
      expect(shapeText(shapeWords(line)), line).to.equal(text);
  });

  it('of several streams that read the same go together', () => {
    const shapes = [
      { ...shape({ text: 'a', count: 5, all: 50, firstAt: instant(7), lastAt: instant(9) }), stream: 'web-1' },
      { ...shape({ text: 'b', count: 6, all: 6 }), stream: 'web-1' },
      { ...shape({ text: 'a', shape: 4, count: 4, all: 40, firstAt: instant(2), lastAt: instant(8) }), stream: 'web-2' }
    ];
    const [first, second] = together(shapes);
    expect(first).to.deep.equal({
      ...{ text: 'a', count: 9, all: 90, firstAt: 2, lastAt: 9, streamSince: now - 10 * day },
      of: [
        { stream: 'web-1', shape: 1 },
        { stream: 'web-2', shape: 4 }
      ]
    });
    expect(second).to.include({ text: 'b', count: 6 });
  });

  it('are new for a day after the first of them', () => {
    expect(shapeNews(shape({ firstAt: instant(now - day + 1) }), lastHour, now).isNew).to.equal(true);
    expect(shapeNews(shape({ firstAt: instant(now - day) }), lastHour, now).isNew).to.equal(false);
    const begun = { firstAt: instant(now - 5), streamSince: instant(now - day + 1) };
    expect(shapeNews(shape(begun), lastHour, now).isNew, 'of a stream that is new itself').to.equal(false);
  });

  it('are more than usual where there are many times as many as in the time before', () => {
    // 10 days less an hour before the hour that is looked at: one a minute is usual.
    const usual = (10 * day - hour) / 60_000;
    expect(shapeNews(shape({ count: 300, all: usual + 300 }), lastHour, now).times).to.be.closeTo(5, 1e-9);
    expect(shapeNews(shape({ count: 179, all: usual + 179 }), lastHour, now).times).to.equal(null);
    expect(shapeNews(shape({ count: 180, all: usual + 180 }), lastHour, now).times).to.be.closeTo(3, 1e-9);
  });

  it('are not said to be more than usual where nothing is known of before, or they are few', () => {
    expect(shapeNews(shape({ firstAt: instant(now - 2 * hour), count: 500, all: 501 }), lastHour, now).times).to.equal(
      null
    );
    expect(shapeNews(shape({ count: 9, all: 9 }), lastHour, now).times).to.equal(null);
  });
});
