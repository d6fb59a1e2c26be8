// Opens the report in a browser, uses it by keyboard alone, and prints what comes of it as JSON.
// page.cjs BROWSER FILE
const { chromium } = require('playwright-core');

const [browserPath, file] = process.argv.slice(2);
const flags = ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking',
  '--disable-component-update', '--disable-sync'];

async function main() {
  const browser = await chromium.launch({ executablePath: browserPath, args: flags });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const said = { asked: [], errors: [] };
  page.on('request', (r) => said.asked.push(r.url()));
  page.on('pageerror', (e) => said.errors.push(String(e)));
  page.on('console', (m) => { if (m.type() === 'error') said.errors.push(m.text()); });
  const started = Date.now();
  await page.goto(`file://${file}`);
  said.rows = await page.locator('#list .row').count();
  said.opened_in = Date.now() - started;
  said.title = await page.title();
  const text = (id) => page.locator(id).innerText();
  const focused = () => page.evaluate(() => document.activeElement.className || document.activeElement.id);

  // find, go down, open
  await page.keyboard.press('/');
  said.after_slash = await focused();
  await page.keyboard.type('cranes');
  said.found = await text('#count');
  await page.keyboard.press('ArrowDown');
  said.in_list = await focused();
  await page.keyboard.press('Enter');
  said.detail = await text('#detail');
  said.hash = await page.evaluate(() => location.hash.slice(1));
  said.sides = await page.locator('#detail .sides pre').count();
  said.marked = await page.locator('#detail mark').count();
  // back, and all of them again
  await page.keyboard.press('/');
  await page.keyboard.press('Escape');
  said.cleared = await text('#count');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('End');
  const last = Date.now();
  await page.keyboard.press('Home');
  said.moved_in = Date.now() - last;
  said.first = await page.evaluate(() => document.activeElement === document.querySelector('#list .row'));

  // the map
  await page.focus('#map');
  await page.keyboard.press('ArrowRight');
  said.spot = await text('#spot');
  await page.keyboard.press('Enter');
  said.of_file = await text('#file');
  said.list_of_file = await text('#count');
  await page.keyboard.press('Escape');
  said.all_again = await text('#count');

  // a pair of files
  if (await page.locator('#pairs button').count()) {
    await page.focus('#pairs button');
    await page.keyboard.press('Enter');
    said.of_pair = await text('#file');
  }
  // what is written in the files runs nowhere
  said.ran = await page.evaluate(() => window.ran === undefined);
  const back = (scheme) => page.emulateMedia({ colorScheme: scheme })
    .then(() => page.evaluate(() => getComputedStyle(document.body).backgroundColor));
  said.light = await back('light');
  said.dark = await back('dark');
  await page.emulateMedia({ media: 'print' });
  said.printed_filters = await page.locator('#filters').isVisible();
  await browser.close();
  console.log(JSON.stringify(said));
}

main().catch((e) => { console.error(e); process.exit(1); });
