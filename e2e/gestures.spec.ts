/** The jobs of practitioners, from the shelf to a built image, with the gestures that each may take. */
import type { Locator, Page } from '@playwright/test';
import { expect, slotRow, test } from './fixtures';

/** Hands that count what they do: a click, a key, a field that is filled, a file that is chosen. */
class Hands {
  gestures = 0;
  constructor(readonly page: Page) {}
  async click(target: Locator): Promise<void> {
    this.gestures += 1;
    await target.click();
  }
  async fill(target: Locator, text: string): Promise<void> {
    this.gestures += 1;
    await target.fill(text);
  }
  async choose(target: Locator, name: string): Promise<void> {
    this.gestures += 1;
    await target.setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from('time,level\n') });
  }
  async key(key: string): Promise<void> {
    this.gestures += 1;
    await this.page.keyboard.press(key);
  }
  link = (name: string | RegExp) => this.page.getByRole('link', { name }).first();
  /** A start on the shelf; layouts that were made from it have its name too. */
  start = (name: RegExp) => this.page.getByRole('complementary', { name: 'New layout' }).getByRole('link', { name });
  button = (name: string | RegExp) => this.page.getByRole('button', { name });
  /** From the designer to an image that was read back. */
  async build(): Promise<void> {
    await this.click(this.link('Build image'));
    await this.click(this.button(/Build revision/));
    await expect(this.page.getByText('done, read back')).toBeVisible();
  }
}

test.describe('from the shelf to a built image, in so many gestures', () => {
  const jobs: [string, number, (hands: Hands) => Promise<void>][] = [
    [
      'a data disk',
      8,
      async (hands) => {
        await hands.click(hands.start(/^Archive disk/));
        await hands.fill(hands.page.getByLabel('Sold as'), '2000 GB');
        await hands.click(hands.button('Make this layout'));
        await hands.build();
      },
    ],
    [
      'a UEFI install disk',
      12,
      async (hands) => {
        await hands.click(hands.start(/^Disk of a UEFI machine/));
        await hands.fill(hands.page.getByLabel('Sold as'), '256 GB');
        await hands.fill(hands.page.getByLabel('Memory', { exact: true }), '8 GiB');
        await hands.click(hands.page.getByRole('radio', { name: 'an installer, later' }));
        await hands.click(hands.button('Make this layout'));
        await hands.build();
      },
    ],
    [
      'a BIOS stick with files',
      18,
      async (hands) => {
        await hands.click(hands.start(/^Stick for every machine/));
        await hands.click(hands.page.getByRole('radio', { name: 'a BIOS' }));
        await hands.click(hands.page.getByRole('radio', { name: 'an installer, later' }));
        await hands.fill(hands.page.getByLabel('Sold as'), '4 GB');
        await hands.click(hands.button('Make this layout'));
        await hands.click(hands.link('Contents'));
        await hands.choose(hands.page.getByLabel('Files to put in'), 'BUOY07.CSV');
        await expect(hands.page.getByText('BUOY07.CSV').first()).toBeVisible();
        await hands.build();
      },
    ],
    [
      'a card for a board',
      8,
      async (hands) => {
        await hands.click(hands.start(/^Card for a board/));
        await hands.click(hands.button('Make this layout'));
        await hands.build();
      },
    ],
    [
      'a FAT stick with a label',
      10,
      async (hands) => {
        await hands.click(hands.start(/^Stick for every machine/));
        await hands.click(hands.page.getByRole('radio', { name: 'nothing', exact: true }));
        await hands.click(hands.button('Make this layout'));
        await hands.click(slotRow(hands.page, 'Shared'));
        await hands.fill(hands.page.getByLabel('Label'), 'TIDESHARE');
        await hands.key('Enter');
        await hands.build();
      },
    ],
    [
      'a small image',
      5,
      async (hands) => {
        await hands.click(hands.button('An empty layout'));
        await hands.click(hands.button('Add a partition over the whole medium'));
        await hands.build();
      },
    ],
  ];
  for (const [name, most, work] of jobs)
    test(`${name}: ${most} at most`, async ({ page }) => {
      await page.goto('/');
      const hands = new Hands(page);
      await work(hands);
      expect(hands.gestures).toBeLessThanOrEqual(most);
    });
});
