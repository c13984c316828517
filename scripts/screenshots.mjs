/** `npm run screenshots`: takes the pictures of docs/screenshots from the demo data, at 1280x800. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { LAUNCH } from './chromium.mjs';
import { installDependencies, installTestMachines, ROOT } from './prepare.mjs';
import { endServer, startServer } from './serving.mjs';

process.chdir(ROOT);
installDependencies();
installTestMachines();
const { chromium } = await import('@playwright/test');

const PORT = 4322;
const data = mkdtempSync(path.join(tmpdir(), 'loess-pictures-'));
// The bench shows simulated media only: what this machine has is nobody's business.
const server = await startServer(PORT, data, { LOESS_SYSTEM_ROOT: data });
const browser = await chromium.launch(LAUNCH);

async function withPage(colorScheme, work) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme });
  const page = await context.newPage();
  await work(page, async (name) => {
    await page.waitForTimeout(300);
    await page.screenshot({ path: path.join('docs', 'screenshots', `${name}.png`) });
  });
  await context.close();
}

const open = (page, url) => page.goto(`http://127.0.0.1:${PORT}${url}`, { waitUntil: 'networkidle' });
const slot = (page, name) => page.getByRole('option', { name: new RegExp(`^${name},`) });

try {
  await withPage('light', async (page, picture) => {
    await open(page, '/layouts/gauge-logger');
    await slot(page, 'Boot').click();
    await picture('designer');
    await open(page, '/layouts/gauge-logger/build');
    await page.getByRole('button', { name: 'Build revision' }).click();
    await page.getByText('done, read back').waitFor();
    await page.getByText('Facts compared').click();
    await picture('build');
    await page.getByRole('link', { name: 'Survey it' }).click();
    await page.getByRole('listbox', { name: /What was found/ }).waitFor();
    await page.getByLabel('Go to a structure').selectOption({ label: 'Partition 1: FSInfo' });
    await page.getByText('Ledger: Partition 1: FSInfo').waitFor();
    await picture('survey');
    await open(page, '/surveys?of=file:survey-laptop.img');
    await page.getByRole('button', { name: 'Keep it in a layout' }).click();
    await page.waitForURL(/layouts/);
    await page
      .getByRole('option', { name: /^Free space/ })
      .last()
      .click();
    await page.getByRole('button', { name: 'Add a partition here' }).click();
    await slot(page, 'First system').click();
    await page.getByLabel('Size', { exact: true }).fill('5500 MiB');
    await page.getByLabel('Size', { exact: true }).press('Enter');
    await slot(page, 'Recovery').click();
    await page.keyboard.press('Delete');
    await page.getByText('saved').waitFor();
    await page.waitForTimeout(1000);
    await page.getByRole('link', { name: 'Before and after' }).click();
    await page.getByRole('heading', { name: 'Partition by partition' }).waitFor();
    await picture('before-and-after');
    await open(page, '/layouts/gauge-card-with-its-files/contents?slot=system');
    await page.getByRole('button', { name: 'Open etc' }).click();
    await page.getByRole('button', { name: 'shadow' }).click();
    await page.getByLabel('Mode').waitFor();
    await picture('contents');
    await open(page, '/layouts/gauge-card-with-its-files/study?slot=boot');
    await page.getByText(/^6 files/).waitFor();
    await picture('study');
    await open(page, '/surveys?of=file:pier-card.img');
    await page.getByRole('option', { name: /^Partition 2, sector/ }).click();
    await page.getByRole('link', { name: 'Browse its files' }).click();
    await page.getByRole('button', { name: 'Check all of it' }).click();
    await page.getByText('Nothing is amiss.').waitFor();
    await page.mouse.move(640, 600);
    await picture('files');
    await open(page, '/layouts/harbour-display');
    await slot(page, 'ESP').click();
    await page.getByRole('option', { name: /^Table: Protective/ }).click();
    await page.keyboard.press('l');
    await page.getByLabel('Go to a structure').selectOption({ label: 'GPT entries' });
    await page.getByText('Ledger: GPT entries').waitFor();
    await picture('ledger');
    await open(page, '/layouts/gauge-card-with-its-files');
    await slot(page, 'System').click();
    await page.getByText('Blocks and inodes').click();
    await page.getByText(/inodes free; journal/).waitFor();
    await page.getByText('Inodes of').scrollIntoViewIfNeeded();
    await picture('ext');
    await open(page, '/layouts/survey-laptop');
    await page.keyboard.press('p');
    await page
      .getByLabel('Lines to add, one slot each')
      .fill('Buoys: 25 %, FAT32, label "BUOY07", /srv/buoys\nSpare: free, same as Swap\nOdd: 5 parsecs');
    await picture('lines');
    await open(page, '/new?start=second-system');
    await picture('start');
    await open(page, '/layouts/gauge-logger/fit');
    await picture('fit');
    await open(page, '/layouts/quay-server/hand-over?with=quay-archive');
    await page.getByRole('button', { name: /^Journal: / }).click();
    await picture('hand-over');
    await open(page, '/layouts/survey-laptop/hand-over?show=boot');
    await page.getByRole('button', { name: 'Propose entries' }).click();
    await page.getByRole('checkbox', { name: /^Loader/ }).waitFor();
    await page.getByRole('radio', { name: 'sheet' }).click();
    await picture('sheet');
    await open(page, '/bench');
    await picture('bench');
    await open(page, '/layouts/gauge-logger');
    await slot(page, 'System A').click();
    await page.getByLabel('Size', { exact: true }).fill('2 GiB');
    await page.getByLabel('Size', { exact: true }).press('Enter');
    await page.getByText(/^revision 2, saved$/).waitFor();
    await open(page, '/layouts/gauge-logger/compare');
    await picture('compare');
    await open(page, '/');
    await picture('shelf');
    await open(page, '/data');
    await page.getByRole('button', { name: 'Check everything' }).click();
    await page.getByText('All of it is what it was.').waitFor();
    await picture('data-folder');
  });
  await withPage('dark', async (page, picture) => {
    await open(page, '/layouts/service-stick');
    await slot(page, 'Shared area').click();
    await page.getByRole('radio', { name: 'true scale' }).click();
    await picture('true-scale-dark');
  });
} finally {
  await browser.close();
  await endServer(server, 'SIGKILL');
  rmSync(data, { recursive: true, force: true });
}
