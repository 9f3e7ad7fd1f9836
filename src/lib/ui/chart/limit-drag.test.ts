import { expect } from 'chai';
import { limitDrag } from './limit-drag';

describe('a limit that is dragged', () => {
  /** 0 at the bottom, 100 at the top, two pixels each. */
  const scale = {
    ...{ min: 0, max: 100, top: 20, bottom: 220 },
    getPixelForValue: (value: number) => 220 - 2 * value,
    getValueForPixel: (pixel: number) => (220 - pixel) / 2
  };

  it('is the nearest one within reach', () => {
    expect(limitDrag(scale, [{ value: 80 }, { value: 82 }], 1, 57)?.index).to.equal(1);
    expect(limitDrag(scale, [{ value: 80 }, { value: 82 }], 1, 65)?.index).to.equal(0);
    expect(limitDrag(scale, [{ value: 80 }], 1, 70)).to.equal(null);
    expect(limitDrag(scale, [], 1, 70)).to.equal(null);
  });

  it('has the value under the pointer, in whole hundredths of what is drawn, and stays on the chart', () => {
    const drag = limitDrag(scale, [{ value: 80 }], 1, 60);
    expect([41, 41.3, -50, 900].map((y) => drag?.valueAt(y))).to.deep.equal([90, 89, 100, 0]);
  });

  it('is in the unit of the picture where that is drawn divided', () => {
    const drag = limitDrag(scale, [{ value: 80_000 }], 1000, 60);
    expect(drag?.valueAt(120)).to.equal(50_000);
  });
});
