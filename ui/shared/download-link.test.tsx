// @vitest-environment happy-dom
import { afterEach, describe, expect, test, vi } from 'vitest';
import { renderPage } from '../../tests/support/page/render.tsx';
import { DownloadLink } from './download-link.tsx';

const served = (answer: () => Promise<Response>) => {
  const asked: RequestInit[] = [];
  vi.stubGlobal('fetch', async (_: string, init: RequestInit) => {
    asked.push(init);
    return answer();
  });
  return asked;
};

async function clicked(answer: () => Promise<Response>) {
  const saved: string[] = [];
  const page = await renderPage(<DownloadLink href="/api/x">the file</DownloadLink>, {});
  vi.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(function (this: HTMLAnchorElement) {
    saved.push(this.download);
  });
  const asked = served(answer);
  await page.user.click(page.screen.getByRole('link', { name: 'the file' }));
  return { ...page, saved, asked };
}

describe('a file of the server', () => {
  afterEach(() => vi.restoreAllMocks());

  test('is asked for with the page’s own header, and saved under the name that the server gives', async () => {
    const headers = { 'content-disposition': 'attachment; filename="a.svf"' };
    const { saved, asked } = await clicked(async () => new Response('x', { headers }));
    await expect.poll(() => saved).toEqual(['a.svf']);
    expect(new Headers(asked[0]?.headers).get('x-nimble-page')).toBe('1');
  });

  test('that cannot be made is told, and nothing is saved', async () => {
    const problem = { code: 'no-build', message: 'There is no build.', tryNext: ['Build.'] };
    const { saved, screen } = await clicked(async () => Response.json({ problem }, { status: 422 }));
    expect(await screen.findByText('There is no build.')).toBeTruthy();
    expect(saved).toEqual([]);
  });

  test('of a server that is away is told too', async () => {
    const { screen } = await clicked(() => Promise.reject(new Error('refused')));
    expect(await screen.findByText(/The server does not answer/)).toBeTruthy();
  });
});
