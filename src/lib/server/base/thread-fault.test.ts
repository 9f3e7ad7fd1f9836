import { expect } from 'chai';
import { threadFault } from './thread-fault';

describe('why a thread did not read something', () => {
  it('what takes too long or too much memory is refused, anything else stays as it is', () => {
    const aborted = Object.assign(new Error('The task has been aborted'), { name: 'AbortError' });
    expect(threadFault(aborted, 5000)).to.include({ code: 'too-large', message: 'Reading it took longer than 5 s.' });
    const full = Object.assign(new Error('Worker terminated'), { code: 'ERR_WORKER_OUT_OF_MEMORY' });
    expect(threadFault(full, 5000)).to.include({ code: 'too-large' });
    const other = new TypeError('a mistake of ours');
    expect(threadFault(other, 5000)).to.equal(other);
    expect(threadFault('text', 5000)).to.equal('text');
  });
});
