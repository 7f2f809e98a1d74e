export default async ({ page, base, shot }) => {
  await page.goto(base + '/protection?part=elsewhere');
  await page.waitForSelector('text=Both sides, >> nth=0', { timeout: 2000 }).catch(() => {});
  await page.waitForTimeout(3000);
  await shot('else1');
  await page.goto(base + '/protection');
  await page.waitForSelector('[id^=lane-]');
  await page.click('text=Ticketing');
  await page.waitForTimeout(1500);
  await shot('else2');
};
