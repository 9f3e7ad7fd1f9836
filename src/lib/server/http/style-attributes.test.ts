import { expect } from 'chai';
import { permitSheet, withoutStyleAttributes } from './style-attributes';

const page = (body: string) => `<head><title>x</title></head><script nonce="n1">a</script>${body}`;

describe('style attributes of a page', () => {
  it('become rules of one sheet with the nonce of the page, equal ones once', () => {
    const { html, nonce } = withoutStyleAttributes(
      page('<p class="a" style="width:30%">1</p><b style="width:30%"></b><i style="font:&quot;x&quot;"></i>')
    );
    expect(nonce).to.equal('n1');
    expect(html).to.contain(
      '<style nonce="n1" data-first-styles>[data-style="0"]:not(#_){width:30%}[data-style="1"]:not(#_){font:"x"}</style></head>'
    );
    expect(html).to.contain('<p class="a" data-style="0">1</p><b data-style="0"></b><i data-style="1"></i>');
    expect(html).not.to.contain(' style="');
  });

  it('are found behind values with signs of their own, and text that looks like one is left alone', () => {
    const { html } = withoutStyleAttributes(page('<p title="a > b" data-x="style=" style="width:1px">style="no"</p>'));
    expect(html).to.contain('<p title="a > b" data-x="style=" data-style="0">style="no"</p>');
  });

  it('that would leave their rule are left out', () => {
    const { html } = withoutStyleAttributes(
      page('<p style="width:1px}body{display:none"></p><p style="a:&lt;/style>"></p><p style="width:2px"></p>')
    );
    expect(html).to.contain('data-first-styles>[data-style="2"]:not(#_){width:2px}</style>');
    expect(html).not.to.contain('display:none');
  });

  it('are none on a page without them, which stays as it was', () => {
    const plain = page('<p>1</p>');
    expect(withoutStyleAttributes(plain)).to.deep.equal({ html: plain, nonce: null });
  });

  it('need a policy that permits the sheet and nothing else', () => {
    expect(permitSheet("default-src 'self'; style-src 'self'; object-src 'none'", 'n1')).to.equal(
      "default-src 'self'; style-src 'self' 'nonce-n1'; object-src 'none'"
    );
  });
});
