import { expect } from 'chai';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { operations } from '../../src/lib/server/api/operations';

const pages = ['README.md', ...['docs/guides', 'docs/decisions'].flatMap((folder) => markdownIn(folder))];

function markdownIn(folder: string): string[] {
  return readdirSync(folder)
    .filter((name) => name.endsWith('.md'))
    .map((name) => join(folder, name));
}

/** Where the links and pictures of a page lead, without those of other sites. */
const linksOf = (page: string): string[] =>
  [...readFileSync(page, 'utf8').matchAll(/\]\((?!https?:)([^)#\s]+)[^)]*\)/g)].map(([, to]) => to as string);

describe('the pages of the documentation', () => {
  it('lead to what is there', () => {
    const lost = pages.flatMap((page) =>
      linksOf(page)
        .filter((to) => !existsSync(join(dirname(page), to)))
        .map((to) => `${page}: ${to}`)
    );
    expect(lost).to.deep.equal([]);
  });

  it('are all found from the list of guides', () => {
    const listed = new Set(linksOf('docs/guides/README.md'));
    const guides = readdirSync('docs/guides').filter((name) => name !== 'README.md');
    expect(guides.filter((name) => !listed.has(name))).to.deep.equal([]);
  });

  it('show every picture that is kept, and keep fewer than twenty', () => {
    const shown = new Set(linksOf('README.md'));
    const kept = readdirSync('docs/screenshots');
    expect(kept.filter((name) => !shown.has(`docs/screenshots/${name}`))).to.deep.equal([]);
    expect(kept.length).to.be.within(1, 19);
  });

  it('name calls of the API that there are', () => {
    const paths = new Set(
      pages.flatMap((page) =>
        [...readFileSync(page, 'utf8').matchAll(/\/api\/v1(?:\/[a-z.-]*[a-z])+/g)].map(([path]) => path)
      )
    );
    expect(paths.size).to.be.above(3);
    const known = operations.map(({ path }) => `/api/v1${path.replace(/\/\{.*/, '')}`);
    const unknown = [...paths].filter(
      (path) => !known.includes(path) && !known.includes(path.replace(/\/[a-z]+$/, ''))
    );
    expect(unknown).to.deep.equal([]);
  });

  it('are numbered without a gap where they are decisions', () => {
    const numbers = readdirSync('docs/decisions').map((name) => Number(name.slice(0, 3)));
    expect(numbers.sort((a, b) => a - b)).to.deep.equal(numbers.map((_, index) => index + 1));
  });
});
