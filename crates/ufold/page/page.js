'use strict';
// All of the page's data stands in it; nothing is asked of anyone else.
const data = JSON.parse(document.getElementById('data').textContent);
const at = (id) => document.getElementById(id);
const make = (tag, text, name) => {
  const e = document.createElement(tag);
  if (text !== undefined) e.textContent = text;
  if (name) e.className = name;
  return e;
};
const path = (copy) => data.files[copy.file].path;
const where = (f) => f.copies[0].at + (f.copies[0].within ? ` in ${f.copies[0].within}` : '');

// The list: one row a finding, made once; filters and order move and hide them.
const rows = data.findings.map((f) => {
  const li = make('li');
  const row = make('button', undefined, 'row');
  row.type = 'button';
  row.tabIndex = -1;
  const verdict = f.verdict || '–';
  const saves = f.kind === 'long' ? '–' : String(f.saves);
  [f.id, f.kind, verdict, f.copies.length, f.lines, saves, where(f)].forEach((text, n) => {
    row.append(make('span', String(text), n === 2 ? f.verdict || 'none' : ''));
  });
  row.addEventListener('click', () => open(f, row));
  li.append(row);
  const words = [f.id, ...f.copies.map((c) => `${path(c)} ${c.within || ''}`)].join(' ').toLowerCase();
  const files = new Set(f.copies.map((c) => c.file));
  return { f, li, row, words, files, language: data.files[f.copies[0].file].language };
});

let shown = rows;
let onlyFiles = null;

const options = (id, values) => values.forEach((v) => at(id).append(make('option', v)));
options('kind', [...new Set(rows.map((r) => r.f.kind))]);
options('verdict', ['ready', 'assumed', 'refused'].filter((v) => rows.some((r) => r.f.verdict === v)));
options('language', [...new Set(rows.map((r) => r.language))].sort());

const orders = {
  saves: (a, b) => b.f.saves - a.f.saves,
  lines: (a, b) => b.f.lines - a.f.lines,
  copies: (a, b) => b.f.copies.length - a.f.copies.length,
  place: (a, b) => (where(a.f) < where(b.f) ? -1 : 1),
};

function list() {
  const text = at('find').value.trim().toLowerCase();
  const [kind, verdict, language, order] = ['kind', 'verdict', 'language', 'order'].map((id) => at(id).value);
  const fits = (r) => (!text || r.words.includes(text)) && (!kind || r.f.kind === kind)
    && (!verdict || r.f.verdict === verdict) && (!language || r.language === language)
    && (!onlyFiles || onlyFiles.every((file) => r.files.has(file)));
  shown = rows.filter(fits);
  if (order) shown.sort(orders[order]);
  at('list').replaceChildren(...shown.map((r) => r.li));
  rows.forEach((r) => { r.row.tabIndex = -1; });
  const current = shown.find((r) => r.row.hasAttribute('aria-current')) || shown[0];
  if (current) current.row.tabIndex = 0;
  at('count').textContent = `${shown.length} of ${rows.length}`;
}

function lookAt(files) {
  onlyFiles = files;
  at('file').hidden = !files;
  at('file').textContent = files ? `${files.map((n) => data.files[n].path).join(' and ')} ×` : '';
  list();
}

['find', 'kind', 'verdict', 'language', 'order'].forEach((id) => at(id).addEventListener('input', list));
at('file').addEventListener('click', () => lookAt(null));

function go(step) {
  const now = shown.findIndex((r) => r.row === document.activeElement);
  const next = shown[Math.max(0, Math.min(shown.length - 1, now < 0 ? 0 : now + step))];
  if (!next) return;
  shown.forEach((r) => { r.row.tabIndex = -1; });
  next.row.tabIndex = 0;
  next.row.focus();
}

const steps = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15, Home: -Infinity, End: Infinity };
at('list').addEventListener('keydown', (e) => {
  if (!(e.key in steps)) return;
  e.preventDefault();
  go(steps[e.key]);
});
at('find').addEventListener('keydown', (e) => {
  if (e.key === 'ArrowDown' || e.key === 'Enter') { e.preventDefault(); go(0); }
});
document.addEventListener('keydown', (e) => {
  const typing = ['INPUT', 'SELECT'].includes(document.activeElement.tagName);
  if (e.key === '/' && !typing) { e.preventDefault(); at('find').focus(); }
  if (e.key === 'Escape') {
    const current = shown.find((r) => r.row.hasAttribute('aria-current'));
    if (at('detail').contains(document.activeElement) && current) current.row.focus();
    else if (document.activeElement === at('find')) { at('find').value = ''; list(); } else if (onlyFiles) lookAt(null);
  }
});

// One finding.
function open(f, row) {
  rows.forEach((r) => r.row.removeAttribute('aria-current'));
  row.setAttribute('aria-current', 'true');
  rows.forEach((r) => { r.row.tabIndex = -1; });
  row.tabIndex = 0;
  history.replaceState(null, '', `#${f.id}`);
  const box = at('detail');
  const head = make('div', undefined, 'head');
  head.append(make('b', f.id), make('span', f.kind), make('span', f.verdict || 'not planned', f.verdict || 'none'));
  box.replaceChildren(head, make('p', f.says));
  copies(box, f);
  if (f.history) past(box, f.history);
  if (f.function) {
    box.append(make('h3', `New function in ${f.function.home}`), make('pre', f.function.text));
    if (f.parameters.length) parameters(box, f);
    box.append(make('h3', 'Calls'), make('pre', f.calls.join('\n')));
  }
  if (f.reasons.length) {
    const ul = make('ul');
    f.reasons.forEach((r) => ul.append(make('li', r)));
    box.append(make('h3', f.verdict === 'assumed' ? 'Assumed' : 'Why'), ul);
  }
  if (f.next) {
    const p = make('p', 'next: ', 'note');
    p.append(make('code', f.next));
    box.append(p);
  }
  box.scrollTop = 0;
}

function copies(box, f) {
  if (f.copies.length === 1) {
    box.append(make('h3', where(f)), side(f, 0, null));
    return;
  }
  const sides = make('div', undefined, 'sides');
  box.append(make('h3', `${f.copies.length} copies`), sides);
  const show = (n) => {
    const choice = make('select');
    choice.setAttribute('aria-label', 'Copy at the right');
    f.copies.forEach((c, i) => {
      if (i === 0) return;
      const o = make('option', `${i + 1}  ${c.at}`);
      o.value = i;
      o.selected = i === n;
      choice.append(o);
    });
    choice.addEventListener('change', () => { show(Number(choice.value)); sides.querySelector('select').focus(); });
    const left = make('div');
    left.append(make('h4', `1  ${f.copies[0].at}`), side(f, 0, n));
    const right = make('div');
    const title = make('h4');
    if (f.copies.length > 2) title.append(choice); else title.textContent = `2  ${f.copies[1].at}`;
    right.append(title, side(f, n, n));
    sides.replaceChildren(left, right);
    const [a, b] = sides.querySelectorAll('pre');
    a.addEventListener('scroll', () => { b.scrollTop = a.scrollTop; b.scrollLeft = a.scrollLeft; });
    b.addEventListener('scroll', () => { a.scrollTop = b.scrollTop; a.scrollLeft = b.scrollLeft; });
  };
  show(1);
}

// The lines of copy n as it stands beside copy `other` (which is laid against the first one).
function side(f, n, other) {
  const pre = make('pre');
  const code = make('div', undefined, 'code');
  const own = f.copies[n];
  const first = f.copies[0];
  let a = 0;
  let b = 0;
  const put = (number, text, name, beside) => {
    code.append(make('i', number === null ? '' : String(number)));
    const span = make('span', undefined, name);
    if (beside === undefined) span.textContent = text; else differing(span, text, beside);
    code.append(span);
  };
  const runs = other === null ? [[0, own.code.length, own.code.length]] : f.copies[other].runs || [];
  runs.forEach(([kind, left, right]) => {
    for (let i = 0; i < Math.max(left, right); i += 1) {
      const has = n === 0 ? i < left : i < right;
      const number = n === 0 ? a + i : b + i;
      const theirs = n === 0 ? (i < right ? f.copies[other === null ? 0 : other].code[b + i] : undefined)
        : (i < left ? first.code[a + i] : undefined);
      if (!has) put(null, '', 'gone');
      else if (kind === 0) put(own.from + number, own.code[number], '', undefined);
      else put(own.from + number, own.code[number], theirs === undefined ? 'only' : 'changed', theirs);
    }
    a += left;
    b += right;
  });
  if (own.more) code.append(make('i'), make('span', `… ${own.more} more lines`));
  pre.tabIndex = 0;
  pre.append(code);
  return pre;
}

// A line with the part marked in which it differs from another.
function differing(span, text, other) {
  let from = 0;
  const least = Math.min(text.length, other.length);
  while (from < least && text[from] === other[from]) from += 1;
  let to = 0;
  while (to < least - from && text[text.length - 1 - to] === other[other.length - 1 - to]) to += 1;
  const word = (c) => c !== undefined && /[\w.]/.test(c);
  while (from > 0 && word(text[from - 1])) from -= 1;
  while (to > 0 && word(text[text.length - to])) to -= 1;
  span.append(text.slice(0, from), make('mark', text.slice(from, text.length - to)), text.slice(text.length - to));
}

function parameters(box, f) {
  const ul = make('ul');
  f.parameters.forEach((p) => {
    const li = make('li');
    li.append(make('code', p.name), `: ${p.arguments.map((v) => v || '–').join(' · ')}`);
    ul.append(li);
  });
  box.append(make('h3', 'Parameters, and what each copy passes'), ul);
}

function past(box, h) {
  const commit = (c) => (c.commit ? `${c.commit} of ${c.date} “${c.subject}”` : 'changes that are not committed');
  const percent = (n) => `${Math.round(100 * n)} %`;
  box.append(make('h3', 'History'));
  box.append(make('p', `${percent(h.alike_then)} alike after ${commit(h.alike_at)}, now ${percent(h.alike_now)}`, 'note'));
  h.changes.forEach((c) => {
    const got = c.changed.map((p) => p.copy).join(', ');
    const missed = c.missed.length ? `; not copy ${c.missed.join(', ')}` : '';
    const pre = make('pre');
    c.changed.forEach((p) => {
      p.removed.forEach((l) => pre.append(make('span', `- ${l}\n`, 'removed')));
      p.added.forEach((l) => pre.append(make('span', `+ ${l}\n`, 'added')));
    });
    box.append(make('p', `copy ${got} got this in ${commit(c.at)}${missed}`), pre);
  });
}

// The map.
const spots = [...document.querySelectorAll('#map rect.f')];
let here = null;

function spot(rect) {
  spots.forEach((r) => r.classList.remove('here', 'with'));
  here = rect;
  if (!rect) return;
  rect.classList.add('here');
  const n = rect.dataset.file;
  if (n === undefined) { at('spot').textContent = rect.dataset.rest; return; }
  const file = data.files[Number(n)];
  const partners = new Set(data.pairs.filter((p) => p.files.includes(Number(n))).flatMap((p) => p.files));
  spots.forEach((r) => { if (r !== rect && partners.has(Number(r.dataset.file))) r.classList.add('with'); });
  const shares = partners.size > 1 ? `; shares code with ${partners.size - 1} (dashed)` : '';
  at('spot').textContent = `${file.path}: ${file.lines} lines of code, ${file.repeated} % repeated, ${file.overlong} % overlong${shares}`;
}

const middle = (r) => ({
  x: Number(r.getAttribute('x')) + Number(r.getAttribute('width')) / 2,
  y: Number(r.getAttribute('y')) + Number(r.getAttribute('height')) / 2,
});
const ways = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
at('map').addEventListener('keydown', (e) => {
  if (e.key === 'Enter' && here && here.dataset.file !== undefined) { lookAt([Number(here.dataset.file)]); go(0); return; }
  const way = ways[e.key];
  if (!way || !spots.length) return;
  e.preventDefault();
  if (!here) { spot(spots[0]); return; }
  const from = middle(here);
  let best = null;
  spots.forEach((r) => {
    const to = middle(r);
    const along = (to.x - from.x) * way[0] + (to.y - from.y) * way[1];
    const across = Math.abs((to.x - from.x) * way[1]) + Math.abs((to.y - from.y) * way[0]);
    const cost = along + 2 * across;
    if (r !== here && along > 1 && (!best || cost < best.cost)) best = { r, cost };
  });
  if (best) spot(best.r);
});
at('map').addEventListener('focus', () => { if (!here && spots.length) spot(spots[0]); });
spots.forEach((r) => {
  r.addEventListener('mouseenter', () => spot(r));
  r.addEventListener('click', () => { if (r.dataset.file !== undefined) lookAt([Number(r.dataset.file)]); });
});
document.querySelectorAll('#pairs button').forEach((b) => {
  b.addEventListener('click', () => { lookAt(b.dataset.files.split(' ').map(Number)); go(0); });
});

list();
const asked = rows.find((r) => r.f.id === location.hash.slice(1));
if (asked) open(asked.f, asked.row);
