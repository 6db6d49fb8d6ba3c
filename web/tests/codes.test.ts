import { describe, expect, it } from 'vitest';
import { codeOf, measure, PLACED, queryOf } from '../src/publish/codes';

const links = {
  page: 'https://v.example/p/k',
  embed: 'https://v.example/p/k/embed',
  feed: 'https://v.example/p/k/feed.ics',
  webcal: 'webcal://v.example/p/k/feed.ics',
  script: 'https://v.example/outlet/frame.js',
};

const parsed = (code: string) => {
  const attribute = (name: string) =>
    new RegExp(`${name}="([^"]*)"`)
      .exec(code)?.[1]
      ?.replaceAll('&quot;', '"')
      .replaceAll('&lt;', '<')
      .replaceAll('&amp;', '&');
  return { src: attribute('src'), title: attribute('title'), style: attribute('style') };
};

describe('the code for a website', () => {
  it('names the embed and what is asked of it', () => {
    const code = codeOf(links, 'Boats & "ropes" <b>', {
      ...PLACED,
      form: 'fixed',
      view: 'upcoming',
      count: 4,
      width: '80%',
      height: '300px',
    });
    expect(parsed(code)).toEqual({
      src: 'https://v.example/p/k/embed?view=upcoming&count=4',
      title: 'Boats & "ropes" <b>',
      style: 'width:80%;max-width:100%;height:300px;border:0;display:block',
    });
    expect(code).not.toContain('<script');
  });

  it('has the helper where the frame fits its contents, and no frame where the script makes it', () => {
    expect(codeOf(links, 'Boats', PLACED)).toContain('<script src="https://v.example/outlet/frame.js" async></script>');
    const made = codeOf(links, 'Boats "x"', { ...PLACED, form: 'script', view: 'small' });
    expect(made).toContain(
      '<div data-valtro="https://v.example/p/k/embed?view=small" data-title="Boats &quot;x&quot;"></div>',
    );
    expect(made).not.toContain('<iframe');
  });

  it('takes pixels and per cent, and nothing that could end the style', () => {
    expect(['640', ' 50 % ', '320px'].map(measure)).toEqual(['640px', '50%', '320px']);
    expect(['', '0', '101%', '12em', '1;color:red', '99999', '-5'].map(measure)).toEqual(Array(7).fill(null));
    expect(parsed(codeOf(links, 'x', { ...PLACED, form: 'fixed', width: '"><script>', height: 'x' })).style).toBe(
      'width:100%;max-width:100%;height:640px;border:0;display:block',
    );
  });

  it('asks for nothing where nothing is chosen', () => expect(queryOf(PLACED)).toBe(''));
});
