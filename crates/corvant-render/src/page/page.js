'use strict';
// Everything that is shown is made of text nodes and attributes that are set one by one: no text of audited files is ever
// read as markup. What is shown is said by the address: #findings&severity=error, #service=timetable.board.

const $ = id => document.getElementById(id);
const SVG = 'http://www.w3.org/2000/svg';
let D; // the data, as page/data.rs writes it
let S; // its texts
let X; // what is worked out once

/** An element with attributes and children; a function is a listener, a text a text node. */
function make(name, attributes, ...children) {
  const svg = name.startsWith('svg:');
  const element = svg ? document.createElementNS(SVG, name.slice(4)) : document.createElement(name);
  for (const [key, value] of Object.entries(attributes || {})) {
    if (typeof value === 'function') element.addEventListener(key, value);
    else if (key === 'style') for (const [property, of] of Object.entries(value)) element.style.setProperty(property, of);
    else if (value !== undefined && value !== null && value !== false) element.setAttribute(key, value === true ? '' : value);
  }
  element.append(...children.flat(9).filter(child => child !== undefined && child !== null && child !== '' && typeof child !== 'boolean' && child !== 0));
  return element;
}
const count = (number, one, many) => `${number.toLocaleString('en')} ${number === 1 ? one : many}`;
const sum = list => list.reduce((one, other) => one + other, 0);
const address = parts => '#' + Object.entries(parts).filter(([, value]) => value !== '' && value !== undefined)
  .map(([key, value]) => value === true ? key : `${key}=${encodeURIComponent(value)}`).join('&');

/** Unpacks the data: base64, gzip, JSON. */
async function unpack(text) {
  const binary = atob(text.trim()), bytes = new Uint8Array(binary.length);
  for (let at = 0; at < binary.length; at++) bytes[at] = binary.charCodeAt(at);
  const stream = new Blob([bytes]).stream().pipeThrough(new DecompressionStream('gzip'));
  return JSON.parse(await new Response(stream).text());
}

/** What is looked up all the time: subjects by name, who needs whom, what is wrong with whom. */
function index() {
  const { subjects, nodes, needs, links, facts } = D.things;
  const byName = new Map();
  subjects.name.forEach((name, subject) => {
    const known = byName.get(S[name]);
    if (known) known.push(subject); else byName.set(S[name], [subject]);
  });
  const nodesOf = new Map();
  nodes.subject.forEach((subject, node) => {
    if (!nodesOf.has(subject)) nodesOf.set(subject, []);
    nodesOf.get(subject).push(node);
  });
  const lists = (length, of) => {
    const start = new Uint32Array(length + 1);
    of.forEach(one => { if (one >= 0) start[one + 1]++; });
    for (let at = 0; at < length; at++) start[at + 1] += start[at];
    const place = start.slice(), all = new Uint32Array(start[length]);
    of.forEach((one, row) => { if (one >= 0) all[place[one]++] = row; });
    return one => all.subarray(start[one], start[one + 1]);
  };
  const size = nodes.subject.length;
  const findingsOf = new Map();
  const blame = (key, finding) => {
    const known = findingsOf.get(key);
    if (!known) findingsOf.set(key, [finding]); else if (known[known.length - 1] !== finding) known.push(finding);
  };
  D.findings.subject.forEach((subject, finding) => {
    for (const part of S[subject].split(' > ')) blame(part, finding);
    for (let place = D.findings.place[finding]; place < D.findings.place[finding + 1]; place++)
      blame(`${D.places.file[place]}:${D.places.line[place]}`, finding);
  });
  const typeSection = D.sections.indexOf('type');
  const types = subjects.name.map((_, subject) => {
    for (let fact = subjects.fact[subject]; fact < subjects.fact[subject + 1]; fact++)
      if (facts.section[fact] === typeSection) return S[facts.text[fact]];
    return '';
  });
  const lower = subjects.name.map((name, subject) => `${S[name]}\t${types[subject]}`.toLowerCase());
  const starts = new Uint32Array(lower.length + 1);
  lower.forEach((text, at) => { starts[at + 1] = starts[at] + text.length + 1; });
  return { byName, nodesOf, findingsOf, types, joined: lower.join('\n'), starts,
    needsOf: lists(size, needs.holder), usersOf: lists(size, needs.to), linksOf: lists(size, links.from), linkedBy: lists(size, links.to) };
}

const nameOf = subject => S[D.things.subjects.name[subject]];
const kindOf = subject => D.kinds[D.things.subjects.kind[subject]];
const hrefOf = subject => address({ [kindOf(subject)]: nameOf(subject) });
const nodeLabel = node => S[D.things.nodes.label[node]] || nameOf(D.things.nodes.subject[node]);
const place = (file, line) => line ? make('span', { class: 'at' }, `${S[D.files[file]]}:${line}`) : '';
const at = (table, row) => place(table.file[row], table.line[row]);
const sign = severity => {
  const word = D.severities[severity];
  const shape = { error: 'M4 0h5l4 4v5l-4 4h-5l-4 -4v-5z', warning: 'M6.5 0l6.5 12.5h-13z', note: 'M6.5 0a6.5 6.5 0 1 0 .01 0z' }[word];
  return make('svg:svg', { class: `sign ${word}`, viewBox: '0 0 13 13', role: 'img', 'aria-label': word },
    make('svg:path', { d: shape }), make('svg:text', { x: 6.5, y: word === 'warning' ? 11 : 9.8 }, { error: '×', warning: '!', note: 'i' }[word]));
};

/** A text in which every known name is a link; where several kinds have it, the first that is wanted. */
function linked(text, wanted = ['service', 'contract', 'tag', 'setting', 'provider', 'module', 'entry', 'type']) {
  if (text.includes('`')) return text.split(/(`[^`]+`)/).map(piece => /^`[^`]+`$/.test(piece) ? make('code', {}, linked(piece.slice(1, -1), wanted)) : linked(piece, wanted));
  const pieces = [];
  let plain = '';
  for (const piece of text.split(/([^\s,;()→]+)/)) {
    const bare = piece.replace(/[.:]+$/, '');
    const known = X.byName.get(piece) ? piece : bare;
    const subjects = known && X.byName.get(known);
    if (!subjects) { plain += piece; continue; }
    const best = wanted.map(kind => subjects.find(subject => kindOf(subject) === kind)).find(subject => subject !== undefined) ?? subjects[0];
    pieces.push(plain, make('a', { href: hrefOf(best) }, known));
    plain = piece.slice(known.length);
  }
  return [...pieces, plain];
}

/** A list of which only the rows in sight exist. Browsers draw nothing below some 16 million pixels: taller lists are scaled. */
function list(container, length, height, draw) {
  const TALLEST = 8e6;
  const all = make('div', { class: 'all' });
  const tall = Math.min(length * height, TALLEST);
  all.style.height = `${tall}px`;
  container.replaceChildren(all);
  const show = (from, to) => {
    const shift = length * height > TALLEST ? container.scrollTop - from * height : 0;
    const rows = [];
    for (let row = from; row < to; row++) {
      const element = draw(row);
      element.style.top = `${row * height + shift}px`;
      element.style.height = `${height}px`;
      rows.push(element);
    }
    const focused = document.activeElement && all.contains(document.activeElement) && document.activeElement.getAttribute('href');
    all.replaceChildren(...rows);
    if (focused) rows.find(row => row.getAttribute('href') === focused)?.focus({ preventScroll: true });
  };
  const update = () => {
    const seen = container.clientHeight || 600;
    const share = tall > seen ? container.scrollTop / (tall - seen) : 0;
    const first = length * height > TALLEST ? share * (length - seen / height) : container.scrollTop / height;
    show(Math.max(0, Math.floor(first) - 3), Math.min(length, Math.ceil(first + seen / height) + 3));
  };
  container.onscroll = update;
  container.onkeydown = event => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const focused = document.activeElement;
    if (!step || !all.contains(focused)) return;
    event.preventDefault();
    const next = step > 0 ? focused.nextElementSibling : focused.previousElementSibling;
    if (next) { next.focus({ preventScroll: true }); next.scrollIntoView({ block: 'nearest' }); }
  };
  new ResizeObserver(update).observe(container);
  update();
  return { toRow: row => { container.scrollTop = Math.max(0, row * height - container.clientHeight / 2); update(); },
    whole: () => show(0, Math.min(length, 400)), update };
}

// The views. Each gets the parts of the address and gives its elements.

const inStage = (finding, stage) => {
  const set = D.findings.sets[D.findings.holds[finding]];
  return stage === '' || D.findings.holds[finding] === 0 || set.includes(stage === '-' ? -1 : D.stages.findIndex(known => S[known] === stage));
};
const ruleOf = finding => D.rules[D.findings.rule[finding]];
const findingHref = (finding, filter = {}) => address({ findings: true, ...filter, finding: finding + 1 });
const numbers = length => Array.from({ length }, (_, number) => number);

/** A table of counts with a bar each. */
function counts(title, rows, key) {
  if (!rows.length) return '';
  const most = Math.max(...rows.map(row => row[1]));
  const line = ([name, number, severity]) => make('tr', {},
    make('td', {}, severity === undefined ? '' : sign(severity), make('a', { href: address({ findings: true, [key]: name }) }, name || 'no module')),
    make('td', { class: 'number' }, number.toLocaleString('en')), make('td', { class: 'bar' }, make('i', { style: { width: `${100 * number / most}%` } })));
  return make('section', {}, make('h2', {}, title), make('table', {}, rows.slice(0, 12).map(line)),
    rows.length > 12 && make('small', {}, `and ${rows.length - 12} more`));
}

function tally(key) {
  const tallied = new Map();
  D.findings.rule.forEach((_, finding) => {
    const name = key(finding), severity = D.findings.severity[finding], known = tallied.get(name);
    if (known) { known[1]++; known[2] = Math.min(known[2], severity); } else tallied.set(name, [name, 1, severity]);
  });
  return [...tallied.values()].sort((one, other) => one[2] - other[2] || other[1] - one[1]);
}

function findingLine(finding) {
  const f = D.findings;
  return [make('span', {}, sign(f.severity[finding]), make('b', {}, S[f.subject[finding]])),
    make('span', { class: 'soft' }, ruleOf(finding).name, f.starts[finding] ? ' · fails at start-up' : f.entries[finding] ? ` · ${count(f.entries[finding], 'entry', 'entries')}` : '', ' · ', S[f.message[finding]])];
}

function overview() {
  const f = D.findings, total = f.rule.length;
  const starting = sum(f.starts), waiting = f.entries.filter((entries, at) => entries && !f.starts[at] && f.severity[at] === 0).length;
  const bySeverity = D.severities.map((word, severity) => [word, f.severity.filter(of => of === severity).length]).filter(([, number]) => number);
  const stages = [...D.stages.map(stage => S[stage])].map(stage => [stage, numbers(total).filter(finding => inStage(finding, stage)).length]);
  const verdict = D.isFailing ? 'Do not deploy this' : total ? 'This can be deployed' : 'Nothing is wrong with the wiring';
  const why = !total ? 'No rule found anything.' : [bySeverity.map(([word, number]) => count(number, word, `${word}s`)).join(', '),
    starting && `${starting} ${starting === 1 ? 'stops' : 'stop'} the start-up`, waiting && `${waiting} ${waiting === 1 ? 'waits' : 'wait'} for a first request`].filter(Boolean).join('; ') + '.';
  const first = numbers(Math.min(total, 5)).map(finding => make('li', {}, sign(f.severity[finding]), make('a', { href: findingHref(finding) }, S[f.subject[finding]]),
    make('span', { class: 'soft' }, ` ${ruleOf(finding).name}`), make('br'), S[f.fails[finding]] ? `fails ${S[f.fails[finding]]}` : S[f.message[finding]]));
  return [make('section', { class: 'card' }, make('p', { class: `big ${D.isFailing ? 'error' : 'good'}` }, verdict), make('p', {}, why),
    make('p', { class: 'soft' }, 'Looked at ', D.summary.map(([word, number], at) => `${at ? ', ' : ''}${number.toLocaleString('en')} ${word}`).join(''), '.',
      D.accepted ? ` ${count(D.accepted, 'finding is', 'findings are')} accepted and not counted.` : '',
      D.stage !== null ? ` Services and modules are shown as they are in ${S[D.stage]}.` : '')),
    first.length && make('section', {}, make('h2', {}, 'Begin with'), make('ul', { class: 'plain' }, first)),
    make('div', { class: 'columns' },
      counts('Findings by rule', tally(finding => ruleOf(finding).name), 'rule'), counts('Findings by module', tally(finding => S[f.module[finding]]), 'module'),
      stages.length > 0 && total > 0 && counts('Findings by stage', stages, 'stage'),
      make('section', {}, make('h2', {}, 'What was not looked at'), D.blindSpots.length ? make('ul', {}, D.blindSpots.map(([subject, message]) => make('li', {}, make('b', {}, S[subject]), `: ${S[message]}`)))
        : make('p', {}, 'Nothing: every manifest below the root was read.')),
      D.acceptedFindings.length > 0 && make('section', {}, make('h2', {}, 'Accepted'), make('ul', {}, D.acceptedFindings.slice(0, 40).map(([rule, subject, reason]) => make('li', {}, `${S[rule]} `, make('b', {}, S[subject]), `: ${S[reason]}`)),
        D.acceptedFindings.length > 40 && make('li', {}, `and ${D.acceptedFindings.length - 40} more`))),
      make('section', {}, make('h2', {}, 'Read by'), make('ul', {}, D.readers.map(reader => make('li', {}, S[reader]))), make('p', { class: 'soft' }, `Corvant ${D.corvant}. Values of settings are not in this page.`)))];
}

/** What is another than before. */
function changes() {
  const c = D.changes;
  const more = (rest, what) => rest > 0 && make('p', { class: 'soft' }, `and ${rest.toLocaleString('en')} more ${what}`);
  const fresh = c.fresh.slice(0, 100).map(finding => make('tr', {}, make('td', {}, sign(D.findings.severity[finding]), make('a', { href: findingHref(finding) }, S[D.findings.subject[finding]]), make('span', { class: 'soft' }, ` ${ruleOf(finding).name}`)), make('td', {}, linked(S[D.findings.message[finding]]))));
  const byModule = new Map();
  for (const change of c.definitions.slice(0, 1000)) { if (!byModule.has(change.module)) byModule.set(change.module, []); byModule.get(change.module).push(change); }
  const definition = change => make('tr', {}, make('th', {}, change.turn), make('td', {}, make('div', {}, linked(S[change.text]), ' ', make('span', { class: 'at' }, S[change.places])),
    change.parts.map(([text, places]) => make('div', { class: 'part' }, linked(S[text]), ' ', make('span', { class: 'at' }, S[places] === S[change.places] ? '' : S[places])))));
  return [make('section', { class: 'card' }, make('p', { class: `big ${D.isFailing ? 'error' : 'good'}` }, D.isFailing ? 'This change brings faults' : c.definitions.length || c.fresh.length || c.effects.length ? 'This change can be deployed' : 'Nothing is another'),
    make('p', {}, `${S[c.findings]}.`), make('p', { class: 'soft' }, make('b', {}, S[c.new]), ' against ', make('b', {}, S[c.old]))),
    fresh.length > 0 && [make('h2', {}, 'New findings'), make('table', {}, fresh), more(c.fresh.length - fresh.length, 'findings')],
    c.gone.length > 0 && [make('h2', {}, 'Findings that are gone'), make('ul', {}, c.gone.slice(0, 100).map(([rule, subject]) => make('li', {}, S[subject], make('span', { class: 'soft' }, ` ${S[rule]}`)))), more(c.gone.length - 100, 'findings')],
    c.effects.length > 0 && [make('h2', {}, 'What follows'), make('ul', {}, c.effects.slice(0, 300).map(effect => make('li', {}, linked(S[effect])))), more(c.effects.length - 300, 'effects')],
    c.definitions.length > 0 && [make('h2', {}, 'Definitions that changed'), [...byModule].map(([module, all]) => make('section', {}, make('h2', {}, 'module ', make('a', { href: address({ module: S[module] }) }, S[module])), make('table', { class: 'facts' }, all.map(definition)))), more(c.definitions.length - 1000, 'definitions')],
    c.unseen.length > 0 && [make('h2', {}, 'What was not looked at'), make('ul', {}, c.unseen.slice(0, 100).map(one => make('li', {}, S[one]))), more(c.unseen.length - 100, 'blind spots')],
    c.edits.length + c.without.length > 0 && [make('h2', {}, 'The edits that would make it so'), c.edits.length > 0 && make('div', { class: 'excerpt' }, make('pre', {}, c.edits.map(line => S[line]).join('\n'))), c.without.map(one => make('p', { class: 'soft' }, S[one]))]];
}

/** The findings that a filter leaves. */
function filtered(of) {
  const f = D.findings, text = (of.text || '').toLowerCase();
  const severities = of.severity ? of.severity.split(',') : D.severities;
  const left = numbers(f.rule.length).filter(finding => severities.includes(D.severities[f.severity[finding]])
    && (!of.rule || ruleOf(finding).name === of.rule) && (!of.family || ruleOf(finding).family === of.family)
    && (of.module === undefined || S[f.module[finding]] === of.module) && inStage(finding, of.stage || '') && (!of.start || f.starts[finding])
    && (!text || `${S[f.subject[finding]]}\n${S[f.message[finding]]}\n${ruleOf(finding).name}`.toLowerCase().includes(text)));
  if (of.sort === 'reach') left.sort((one, other) => f.entries[other] - f.entries[one] || f.services[other] - f.services[one] || one - other);
  return left;
}

function findings(of) {
  const { finding: chosen, findings: _, ...filter } = of;
  const go = change => { location.hash = address({ findings: true, ...filter, ...change }); };
  const choice = (label, key, options, none) => options.length > 1 && make('select', { 'aria-label': label, change: event => go({ [key]: event.target.selectedIndex ? options[event.target.selectedIndex - 1][0] : undefined }) },
    make('option', {}, none), options.map(([value, text]) => make('option', { selected: filter[key] === value }, text)));
  const named = entries => entries.map(([name, number]) => [name, `${name || 'no module'} (${number})`]);
  const by = key => named(tally(key)).sort((one, other) => one[0] < other[0] ? -1 : 1);
  const severities = filter.severity ? filter.severity.split(',') : [...D.severities];
  const bar = make('div', { class: 'filters', role: 'group', 'aria-label': 'Filter' },
    D.severities.map((word, severity) => make('label', { class: word }, make('input', { type: 'checkbox', checked: severities.includes(word), change: event => {
      const kept = D.severities.filter(other => other === word ? event.target.checked : severities.includes(other));
      go({ severity: kept.length === D.severities.length ? undefined : kept.join(',') || '-' });
    } }), ' ', word, 's ', D.findings.severity.filter(one => one === severity).length.toLocaleString('en'))),
    choice('Rule', 'rule', by(finding => ruleOf(finding).name), 'every rule'), choice('Family', 'family', by(finding => ruleOf(finding).family), 'every family'),
    choice('Module', 'module', by(finding => S[D.findings.module[finding]]), 'every module'),
    choice('Stage', 'stage', [...D.stages.map(stage => [S[stage], `in ${S[stage]}`]), ...(D.stages.length ? [['-', 'with none chosen']] : [])], 'every stage'),
    make('label', {}, make('input', { type: 'checkbox', checked: !!filter.start, change: event => go({ start: event.target.checked ? '1' : undefined }) }), ' fails at start-up'),
    make('label', {}, make('input', { type: 'checkbox', checked: filter.sort === 'reach', change: event => go({ sort: event.target.checked ? 'reach' : undefined }) }), ' widest reach first'),
    make('input', { type: 'search', placeholder: 'Text', 'aria-label': 'Text', value: filter.text || '', id: 'text', input: event => { clearTimeout(X.typing); X.typing = setTimeout(() => go({ text: event.target.value }), 120); } }),
    make('small', { id: 'shown' }));
  const left = filtered(filter);
  bar.querySelector('#shown').textContent = `${left.length.toLocaleString('en')} of ${D.findings.rule.length.toLocaleString('en')}`;
  const rows = make('div', { class: 'list', 'aria-label': 'Findings' });
  const shown = chosen ? Number(chosen) - 1 : undefined;
  const detail = make('div', { class: 'detail' }, shown !== undefined && D.findings.rule[shown] !== undefined ? findingDetail(shown, filter)
    : make('p', { class: 'soft' }, left.length ? 'Choose a finding.' : 'No finding is left by this filter.'));
  const split = make('div', { class: shown === undefined ? 'split' : 'split open' }, rows, detail);
  requestAnimationFrame(() => {
    const drawn = list(rows, left.length, 54, row => make('a', { class: 'row', href: findingHref(left[row], filter), 'aria-current': left[row] === shown ? 'true' : undefined }, findingLine(left[row])));
    X.list = drawn;
    const row = left.indexOf(shown);
    if (row * 54 > rows.clientHeight) drawn.toRow(row);
  });
  return [bar, split];
}

function findingDetail(finding, filter) {
  const f = D.findings, rule = ruleOf(finding), set = f.sets[f.holds[finding]];
  const places = [];
  for (let row = f.place[finding]; row < f.place[finding + 1] && places.length < 60; row++) {
    const p = D.places, marked = S[p.marked[row]];
    places.push(make('div', { class: 'excerpt' }, make('span', { class: 'at' }, `${S[D.files[p.file[row]]]}:${p.line[row]}:${p.column[row]}`), make('span', { class: 'soft' }, `  ${S[p.role[row]]}`),
      (S[p.before[row]] || marked || S[p.after[row]]) && make('pre', {}, S[p.before[row]], make('mark', {}, marked || ' '), S[p.after[row]])));
  }
  const more = f.place[finding + 1] - f.place[finding] - places.length;
  const fixes = [];
  for (let row = f.fix[finding]; row < f.fix[finding + 1]; row++) fixes.push(make('li', {}, linked(S[f.fixes.title[row]]), f.fixes.certain[row] ? make('b', { class: 'good' }, ' certain') : ''));
  return [make('a', { class: 'only-narrow', href: address({ findings: true, ...filter }) }, '← all findings'),
    make('h1', {}, sign(f.severity[finding]), make('span', { class: 'kind' }, rule.name, ' '), linked(S[f.subject[finding]])),
    make('p', {}, linked(S[f.message[finding]])),
    S[f.fails[finding]] && make('p', {}, make('b', {}, 'Fails '), linked(S[f.fails[finding]], ['entry', 'provider', 'service']), '.'),
    f.holds[finding] !== 0 && make('p', {}, make('b', {}, 'Stages: '), set.map(stage => stage < 0 ? 'with none chosen' : S[D.stages[stage]]).join(', ')),
    fixes.length && [make('h2', {}, 'What to do'), make('ul', {}, fixes)], make('h2', {}, 'Where'), places, more > 0 && make('p', { class: 'soft' }, `and ${more} more places`),
    make('h2', {}, 'Why it matters'), make('p', {}, rule.why), make('p', { class: 'soft' }, 'Not reported: ', rule.limits)];
}

/** All subjects of a kind. */
function listing(kind, of) {
  const wanted = D.kinds.indexOf(kind), text = (of.text || '').toLowerCase();
  const all = [];
  D.things.subjects.kind.forEach((one, subject) => { if (one === wanted) all.push(subject); });
  const left = text ? search(text, Infinity, subject => D.things.subjects.kind[subject] === wanted) : all;
  const rows = make('div', { class: 'list', 'aria-label': kind });
  requestAnimationFrame(() => {
    X.list = list(rows, left.length, 30, row => {
      const subject = left[row], found = X.findingsOf.get(nameOf(subject));
      return make('a', { class: 'row', href: hrefOf(subject) }, make('span', {}, found ? sign(Math.min(...found.map(finding => D.findings.severity[finding]))) : '', make('b', {}, nameOf(subject)), make('span', { class: 'soft only-wide' }, X.types[subject] ? `  ${X.types[subject]}` : '')));
    });
  });
  return [make('div', { class: 'filters' }, make('input', { type: 'search', placeholder: `Text in names${kind === 'service' ? ' and types' : ''}`, 'aria-label': 'Text', id: 'text', value: of.text || '',
    input: event => { clearTimeout(X.typing); X.typing = setTimeout(() => { location.hash = address({ list: kind, text: event.target.value }); }, 80); } }),
    make('small', { id: 'shown' }, `${left.length.toLocaleString('en')} of ${all.length.toLocaleString('en')}`)), rows];
}

/** Subjects whose names or types hold a text, the first few. */
function search(text, most, keep = () => true) {
  const found = [];
  let from = 0;
  while (found.length < most) {
    const hit = X.joined.indexOf(text, from);
    if (hit < 0) break;
    let low = 0, high = X.starts.length - 1;
    while (low < high) { const middle = (low + high + 1) >> 1; if (X.starts[middle] <= hit) low = middle; else high = middle - 1; }
    if (keep(low)) found.push(low);
    from = X.starts[low + 1];
  }
  return found;
}

const CALLED = { service: 'Services', contract: 'Contracts', tag: 'Tags', setting: 'Settings', provider: 'Providers', module: 'Modules', entry: 'Entries', type: 'Types' };
const LINKS = { 'also called': ['service'], offers: ['contract'], 'offered by': ['service'], tags: ['tag'], 'carried by': ['service'], uses: ['module'], 'used by': ['module'], defined: ['module'], declared: ['module'], type: ['type'], providers: ['provider'], after: ['provider'], entries: ['entry'], extends: ['contract'] };

/** One thing, with all that is known of it. */
function thing(kind, name) {
  const subject = (X.byName.get(name) || []).find(one => kindOf(one) === kind);
  if (subject === undefined) return [make('h1', {}, `No ${kind} here is called ${name}`), make('p', {}, make('a', { href: address({ list: kind }) }, `All ${CALLED[kind].toLowerCase()}`))];
  const { subjects, facts, needs, nodes } = D.things;
  const sections = new Map();
  for (let fact = subjects.fact[subject]; fact < subjects.fact[subject + 1]; fact++) {
    const word = D.sections[facts.section[fact]];
    if (!sections.has(word)) sections.set(word, []);
    sections.get(word).push([linked(S[facts.text[fact]], LINKS[word]), at(facts.at, fact)]);
  }
  const all = X.nodesOf.get(subject) || [];
  const built = all.filter(node => nodes.built[node]);
  const own = built.length ? built : all;
  const add = (word, line, where) => { if (!sections.has(word)) sections.set(word, []); sections.get(word).push([line, where]); };
  for (const node of own) {
    for (const need of X.needsOf(node)) {
      const to = needs.to[need], aim = S[needs.aim[need]], manner = S[needs.manner[need]];
      const got = to >= 0 && nodeLabel(to) !== aim && nameOf(nodes.subject[to]) !== aim ? [' → ', make('a', { href: hrefOf(nodes.subject[to]) }, nodeLabel(to))] : '';
      add('needs', [`${S[needs.slot[need]]}: `, linked(aim), got, `, ${S[needs.reason[need]]}`, manner && `; ${manner}`], at(needs.at, need));
    }
    for (const [user, need] of users(node)) add('needed by', [make('a', { href: hrefOf(nodes.subject[user]) }, nodeLabel(user)), need >= 0 ? `, slot ${S[needs.slot[need]]}` : ''], need >= 0 ? at(needs.at, need) : at(nodes.at, user));
  }
  if (kind === 'contract' || kind === 'setting') askers(kind, name).forEach(need => add('needed by', [make('a', { href: hrefOf(nodes.subject[needs.holder[need]]) }, nodeLabel(needs.holder[need])), `, slot ${S[needs.slot[need]]}: ${S[needs.reason[need]]}`], at(needs.at, need)));
  const served = own.length ? serves(own) : [];
  served.slice(0, 12).forEach(node => add('serves', make('a', { href: hrefOf(nodes.subject[node]) }, `${kindOf(nodes.subject[node])} ${nodeLabel(node)}`), at(nodes.at, node)));
  if (served.length > 12) add('serves', `and ${count(served.length - 12, 'more', 'more')}`, '');
  const found = new Set([...(X.findingsOf.get(name) || []), ...all.flatMap(node => X.findingsOf.get(`${nodes.at.file[node]}:${nodes.at.line[node]}`) || [])]);
  const rows = [...sections].map(([word, lines]) => [...lines.slice(0, 60), ...(lines.length > 60 ? [[`and ${lines.length - 60} more`, '']] : [])]
    .map(([line, where], row) => make('tr', {}, make('th', {}, row ? '' : word), make('td', {}, line, where && ' ', where))));
  return [make('h1', {}, make('span', { class: 'kind' }, kind, ' '), name),
    found.size > 0 && make('div', { class: 'card' }, [...found].slice(0, 20).map(finding => make('div', {}, sign(D.findings.severity[finding]), make('a', { href: findingHref(finding) }, ruleOf(finding).name), ' ', linked(S[D.findings.message[finding]])))),
    own.length > 0 && neighbours(own[0]),
    make('table', { class: 'facts' }, rows)];
}

/** Who needs a node, each with the need (-1: without one). */
function users(node) {
  return [...[...X.usersOf(node)].map(need => [D.things.needs.holder[need], need]), ...[...X.linkedBy(node)].map(link => [D.things.links.from[link], -1])];
}
/** What a node needs, each with the need. */
function needed(node) {
  return [...[...X.needsOf(node)].map(need => [D.things.needs.to[need], need]), ...[...X.linksOf(node)].map(link => [D.things.links.to[link], -1])];
}
/** Needs that name a contract or a setting and get no node of it. */
function askers(kind, name) {
  const wanted = kind === 'contract' ? [`contract ${name}`, `all that offer ${name}`] : [`setting ${name}`];
  const under = `contract ${name} under `, found = [];
  D.things.needs.aim.forEach((aim, need) => { if (wanted.includes(S[aim]) || (kind === 'contract' && S[aim].startsWith(under))) found.push(need); });
  return found;
}
/** Entries and providers that come to use some nodes, over however many others. */
function serves(from) {
  const seen = new Set(from), waiting = [...from], found = [];
  while (waiting.length) for (const [user] of users(waiting.pop())) if (!seen.has(user)) {
    seen.add(user); waiting.push(user);
    if (['entry', 'provider'].includes(kindOf(D.things.nodes.subject[user]))) found.push(user);
  }
  return found.sort((one, other) => one - other);
}

/** A small picture around a node, that unfolds step by step: who needs it to the left, what it needs to the right. */
function neighbours(center) {
  const WIDE = 210, HIGH = 30, GAP = 8, BETWEEN = 60, MOST = 10;
  const tree = (node, path) => ({ node, path, open: false, branches: null });
  const around = { left: { ...tree(center, [center]), open: true }, right: { ...tree(center, [center]), open: true } };
  const grow = (branch, side) => {
    if (!branch.branches) {
      const unique = new Map();
      for (const [node, need] of side === 'left' ? users(branch.node) : needed(branch.node)) if (node >= 0 ? !unique.has(node) : true) unique.set(node >= 0 ? node : `need ${need}`, { ...tree(node, [...branch.path, node]), need });
      branch.branches = [...unique.values()];
    }
    return branch.branches;
  };
  const box = make('div', { class: 'picture', tabindex: 0, role: 'img', 'aria-label': `what ${nodeLabel(center)} needs, and who needs it` });
  const draw = () => {
    const shapes = [], lines = [];
    let lowest = 0, farthest = { left: 0, right: 0 };
    const stand = (branch, side, depth, top) => {
      farthest[side] = Math.max(farthest[side], depth);
      let y = top;
      const middles = [];
      if (branch.open) {
        const branches = grow(branch, side);
        for (const one of branches.slice(0, MOST)) { const [middle, end] = stand(one, side, depth + 1, y); middles.push([one, middle]); y = end; }
        if (branches.length > MOST) { middles.push([{ more: branches.length - MOST }, y + HIGH / 2]); y += HIGH + GAP; farthest[side] = Math.max(farthest[side], depth + 1); }
      }
      const middle = middles.length ? (middles[0][1] + middles[middles.length - 1][1]) / 2 : top + HIGH / 2;
      branch.stands = middle; branch.depth = depth; branch.middles = middles;
      return [middle, Math.max(y, top + HIGH + GAP)];
    };
    const ends = ['left', 'right'].map(side => stand(around[side], side, 0, 0));
    const high = Math.max(ends[0][1], ends[1][1]) + 16;
    const x = (side, depth) => 14 + (farthest.left + (side === 'left' ? -depth : depth)) * (WIDE + BETWEEN);
    const node = (branch, side, y) => {
      const label = branch.more ? `… ${branch.more} more` : branch.node < 0 ? S[D.things.needs.aim[branch.need]] : nodeLabel(branch.node);
      const isCenter = branch.depth === 0, left = x(side, branch.depth);
      const faulty = branch.node >= 0 && X.findingsOf.has(nameOf(D.things.nodes.subject[branch.node]));
      const text = [make('svg:title', {}, label), make('svg:rect', { x: left, y: y - HIGH / 2, width: WIDE, height: HIGH, rx: 5, class: `box${isCenter ? ' center' : faulty ? ' faulty' : branch.node < 0 && D.things.needs.unmet[branch.need] ? ' missing' : ''}` }), make('svg:text', { x: left + 9, y: y + 4 }, label.length > 28 ? `${label.slice(0, 27)}…` : label)];
      shapes.push(branch.node >= 0 && !isCenter ? make('svg:a', { href: hrefOf(D.things.nodes.subject[branch.node]) }, text) : make('svg:g', {}, text));
      if (branch.node >= 0 && !isCenter && !branch.path.slice(0, -1).includes(branch.node) && grow(branch, side).length) {
        const toggle = event => { if (event.type === 'keydown' && event.key !== 'Enter' && event.key !== ' ') return; event.preventDefault(); branch.open = !branch.open; draw(); };
        shapes.push(make('svg:g', { class: 'more', tabindex: 0, role: 'button', 'aria-label': `${branch.open ? 'fold' : 'unfold'} ${label}`, click: toggle, keydown: toggle },
          make('svg:circle', { cx: side === 'left' ? left : left + WIDE, cy: y, r: 8 }), make('svg:text', { x: side === 'left' ? left : left + WIDE, y: y + 4 }, branch.open ? '−' : '+')));
      }
      for (const [one, to] of branch.middles || []) {
        if (one.more) { one.depth = branch.depth + 1; one.middles = []; one.node = -2; }
        const [from, end, fromY, endY] = side === 'left' ? [x(side, one.depth) + WIDE, left - (isCenter ? 0 : 8), to, y] : [left + WIDE + (isCenter ? 0 : 8), x(side, one.depth), y, to];
        const manner = one.need >= 0 ? S[D.things.needs.manner[one.need]] : '';
        lines.push(make('svg:path', { class: `edge${manner.includes('lazy') ? ' lazy' : ''}`, d: `M${from} ${fromY} C${(from + end) / 2} ${fromY} ${(from + end) / 2} ${endY} ${end - 7} ${endY}` }), make('svg:path', { class: 'head', d: `M${end - 8} ${endY - 4} L${end} ${endY} L${end - 8} ${endY + 4} Z` }));
        node(one, side, to);
      }
    };
    const shift = ends[0][0] - ends[1][0];
    const lift = (branch, by) => { branch.stands += by; for (const pair of branch.middles || []) { pair[1] += by; if (!pair[0].more) lift(pair[0], by); } };
    const down = 8;
    lift(around.left, down + Math.max(0, -shift)); lift(around.right, down + Math.max(0, shift));
    node(around.left, 'left', around.left.stands); node(around.right, 'right', around.right.stands);
    const wide = 28 + (farthest.left + farthest.right + 1) * (WIDE + BETWEEN) - BETWEEN;
    box.replaceChildren(make('svg:svg', { width: wide, height: high + Math.abs(shift) }, lines, shapes));
    if (!box.dataset.seen) { box.dataset.seen = '1'; requestAnimationFrame(() => { box.scrollLeft = Math.max(0, x('left', 0) - box.clientWidth / 2 + WIDE / 2); }); }
  };
  draw();
  return box;
}

/** Who needs whom among modules, in the order in which they are built. */
function modules(of) {
  const m = D.modules, length = m.name.length;
  const broken = new Set(), family = 'boundaries';
  numbers(D.findings.rule.length).filter(finding => ruleOf(finding).family === family).forEach(finding => {
    const parts = S[D.findings.subject[finding]].split(' > ');
    if (parts.length === 2) broken.add(parts.join('\n'));
    else {
      const to = (X.nodesOf.get((X.byName.get(parts[0]) || [])[0]) || [])[0];
      if (to !== undefined) broken.add(`${S[D.findings.module[finding]]}\n${S[D.things.nodes.module[to]]}`);
    }
  });
  const status = make('small', {}, `${count(length, 'module', 'modules')} in the order in which they are built: what is needed stands before what needs it`);
  const behind = make('div', { class: 'behind' });
  const frame = make('div', { class: 'matrix', tabindex: 0, role: 'application', 'aria-label': 'Matrix of modules: arrow keys move, Enter opens the needs behind a cell' });
  const open = (row, column) => { location.hash = address({ modules: true, from: S[m.name[row]], to: S[m.name[column]] }); };
  requestAnimationFrame(() => matrix(frame, { names: m.name.map(name => S[name]), group: m.group, fault: m.fault, row: m.row, column: m.column, count: m.count,
    name: row => { location.hash = address({ module: S[m.name[row]] }); },
    isBroken: (row, column) => broken.has(`${S[m.name[row]]}\n${S[m.name[column]]}`), open,
    tell: (row, column, number) => { status.textContent = row === column ? S[m.name[row]] : `${S[m.name[row]]} needs ${S[m.name[column]]}${number ? ` ${number} ${number === 1 ? 'time' : 'times'}` : ': not at all'}${column > row && number ? ', which breaks the order of building' : ''}${broken.has(`${S[m.name[row]]}\n${S[m.name[column]]}`) ? ', across a boundary' : ''}`; },
    chosen: of.from ? [m.name.findIndex(name => S[name] === of.from), m.name.findIndex(name => S[name] === of.to)] : undefined }));
  if (of.from) {
    const rows = between(of.from, of.to);
    behind.append(make('h2', {}, make('a', { href: address({ module: of.from }) }, of.from), ' needs ', make('a', { href: address({ module: of.to }) }, of.to), ` ${count(rows.length, 'time', 'times')}`),
      make('table', {}, rows.slice(0, 200).map(need => make('tr', {}, make('td', {}, make('a', { href: hrefOf(D.things.nodes.subject[D.things.needs.holder[need]]) }, nodeLabel(D.things.needs.holder[need]))), make('td', {}, `${S[D.things.needs.slot[need]]}: `, linked(S[D.things.needs.aim[need]])), make('td', {}, at(D.things.needs.at, need))))));
  }
  return [make('div', { class: 'filters' }, status, make('small', { class: 'only-wide' }, 'rows need columns · a frame: all in it need one another · a corner: it breaks the order · a cross: across a boundary · a red name: errors there')), frame, behind];
}

/** Needs of one module that another's nodes meet, also through tags and the like. */
function between(from, to) {
  const { needs, nodes } = D.things;
  const is = (node, module) => (S[nodes.module[node]] || 'no module') === module;
  const found = [];
  needs.to.forEach((node, need) => {
    if (node < 0 || !is(needs.holder[need], from)) return;
    const through = ['tag', 'contract'].includes(kindOf(nodes.subject[node])) && S[nodes.module[node]] === '' ? [...X.linksOf(node)].map(link => D.things.links.to[link]) : [node];
    if (through.some(one => is(one, to))) found.push(need);
  });
  return found;
}

const FONT = "11px 'DejaVu Sans', system-ui, sans-serif";

/** Draws a matrix on a canvas that stays in sight, with its labels, whatever part is scrolled to. */
function matrix(frame, of) {
  const length = of.names.length, ruler = document.createElement('canvas').getContext('2d');
  ruler.font = FONT;
  const longest = of.names.reduce((one, name) => Math.max(one, ruler.measureText(name).width), 0);
  const STEEP = Math.min(118, longest * 0.87 + 22), LABEL = Math.min(220, Math.max(110, frame.clientWidth * 0.26), Math.max(110, longest + 18));
  const CELL = Math.min(34, Math.max(length > 120 ? 15 : 20, Math.floor(Math.min(frame.clientHeight - STEEP - 34, frame.clientWidth - LABEL - 40) / length)));
  const canvas = make('canvas'), all = make('div', { class: 'all' });
  all.style.width = `${LABEL + length * CELL + 70}px`; all.style.height = `${STEEP + length * CELL + 30}px`;
  frame.replaceChildren(canvas, all);
  const cells = new Map(of.row.map((row, at) => [row * length + of.column[at], of.count[at]]));
  const most = Math.log1p(of.count.reduce((one, other) => Math.max(one, other), 1));
  const sums = [new Array(length).fill(0), new Array(length).fill(0)];
  of.row.forEach((row, at) => { if (row !== of.column[at]) { sums[0][row] += of.count[at]; sums[1][of.column[at]] += of.count[at]; } });
  let [hotRow, hotColumn] = of.chosen || [-1, -1];
  const draw = () => {
    const wide = frame.clientWidth, high = frame.clientHeight, scale = window.devicePixelRatio || 1;
    if (canvas.width !== wide * scale || canvas.height !== high * scale) { canvas.width = wide * scale; canvas.height = high * scale; canvas.style.width = `${wide}px`; canvas.style.height = `${high}px`; canvas.style.marginBottom = `-${high}px`; }
    const colors = getComputedStyle(document.documentElement), color = name => colors.getPropertyValue(`--${name}`).trim();
    const pen = canvas.getContext('2d'), left = frame.scrollLeft, top = frame.scrollTop;
    const x = column => LABEL + column * CELL - left, y = row => STEEP + row * CELL - top;
    pen.setTransform(scale, 0, 0, scale, 0, 0);
    pen.clearRect(0, 0, wide, high);
    pen.font = FONT;
    const [firstRow, lastRow] = [Math.max(0, Math.floor(top / CELL)), Math.min(length, Math.ceil((top + high - STEEP) / CELL))];
    const [firstColumn, lastColumn] = [Math.max(0, Math.floor(left / CELL)), Math.min(length, Math.ceil((left + wide - LABEL) / CELL))];
    pen.save(); pen.beginPath(); pen.rect(LABEL, STEEP, wide, high); pen.clip();
    for (let row = firstRow; row < lastRow; row++) for (let column = firstColumn; column < lastColumn; column++) {
      const number = cells.get(row * length + column);
      if (row === column) { pen.fillStyle = color('line'); pen.fillRect(x(column), y(row), CELL, CELL); }
      else if (row === hotRow || column === hotColumn) { pen.fillStyle = color('chosen'); pen.fillRect(x(column), y(row), CELL, CELL); }
      if (number && row !== column) {
        pen.globalAlpha = 0.25 + 0.75 * Math.log1p(number) / most;
        pen.fillStyle = color('bar'); pen.fillRect(x(column) + 1, y(row) + 1, CELL - 2, CELL - 2);
        pen.globalAlpha = 1;
        if (column > row) { pen.fillStyle = color('error'); pen.beginPath(); pen.moveTo(x(column) + CELL - 1, y(row) + 1); pen.lineTo(x(column) + CELL - 8, y(row) + 1); pen.lineTo(x(column) + CELL - 1, y(row) + 8); pen.fill(); }
        if (of.isBroken(row, column)) { pen.strokeStyle = color('error'); pen.lineWidth = 1.5; pen.beginPath(); pen.moveTo(x(column) + 3, y(row) + 3); pen.lineTo(x(column) + CELL - 3, y(row) + CELL - 3); pen.moveTo(x(column) + 3, y(row) + CELL - 3); pen.lineTo(x(column) + CELL - 3, y(row) + 3); pen.stroke(); }
        else if (CELL >= 20) { pen.fillStyle = color('ink'); pen.textAlign = 'center'; pen.font = "9px 'DejaVu Sans', sans-serif"; pen.fillText(number > 999 ? '999+' : number, x(column) + CELL / 2, y(row) + CELL / 2 + 3); pen.font = FONT; }
      }
    }
    pen.strokeStyle = color('line'); pen.lineWidth = 1; pen.beginPath();
    for (let row = firstRow; row <= lastRow; row++) { pen.moveTo(LABEL, y(row) + 0.5); pen.lineTo(x(length), y(row) + 0.5); }
    for (let column = firstColumn; column <= lastColumn; column++) { pen.moveTo(x(column) + 0.5, STEEP); pen.lineTo(x(column) + 0.5, y(length)); }
    pen.stroke();
    pen.strokeStyle = color('error'); pen.lineWidth = 2;
    for (let row = 0; row < length;) { let end = row + 1; while (end < length && of.group[row] && of.group[end] === of.group[row]) end++; if (of.group[row] && end > row + 1) pen.strokeRect(x(row), y(row), (end - row) * CELL, (end - row) * CELL); row = end; }
    pen.restore();
    pen.textAlign = 'right';
    pen.save(); pen.beginPath(); pen.rect(0, STEEP, wide, high - STEEP); pen.clip();
    for (let row = firstRow; row < lastRow; row++) {
      pen.fillStyle = row === hotRow ? color('link') : of.fault[row] === 0 ? color('error') : color('ink');
      pen.fillText(fitted(pen, of.names[row], LABEL - 14), LABEL - 7, y(row) + CELL / 2 + 4);
      pen.fillStyle = color('soft'); pen.textAlign = 'left';
      if (sums[0][row] && x(length) < wide) pen.fillText(sums[0][row], x(length) + 6, y(row) + CELL / 2 + 4);
      pen.textAlign = 'right';
    }
    pen.restore();
    pen.save(); pen.beginPath(); pen.rect(LABEL - 4, 0, wide, high); pen.clip(); pen.textAlign = 'left';
    for (let column = firstColumn; column < lastColumn; column++) {
      pen.fillStyle = column === hotColumn ? color('link') : of.fault[column] === 0 ? color('error') : color('ink');
      pen.save(); pen.translate(x(column) + CELL / 2 + 4, STEEP - 5); pen.rotate(-Math.PI / 3); pen.fillText(fitted(pen, of.names[column], STEEP * 1.1), 0, 0); pen.restore();
      pen.fillStyle = color('soft'); pen.textAlign = 'center';
      if (sums[1][column] && y(length) < high) pen.fillText(sums[1][column], x(column) + CELL / 2, y(length) + 14);
      pen.textAlign = 'left';
    }
    pen.restore();
    pen.textAlign = 'left'; pen.fillStyle = color('soft'); pen.fillText('who needs ↓', 8, STEEP - 22); pen.fillText('who is needed →', 8, STEEP - 8);
  };
  const cellAt = event => { const box = canvas.getBoundingClientRect(); return [Math.floor((event.clientY - box.top - STEEP + frame.scrollTop) / CELL), Math.floor((event.clientX - box.left - LABEL + frame.scrollLeft) / CELL)]; };
  const within = ([row, column]) => row >= 0 && column >= 0 && row < length && column < length;
  const hover = cell => { if (!within(cell)) return; [hotRow, hotColumn] = cell; of.tell(hotRow, hotColumn, cells.get(hotRow * length + hotColumn)); draw(); };
  canvas.onmousemove = event => hover(cellAt(event));
  canvas.onclick = event => {
    const [row, column] = cellAt(event);
    if (within([row, column]) && cells.get(row * length + column)) of.open(row, column);
    else if (column < 0 && within([row, 0])) of.name(row); else if (row < 0 && within([0, column])) of.name(column);
  };
  frame.onscroll = draw;
  frame.onkeydown = event => {
    const step = { ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1] }[event.key];
    if (step) {
      event.preventDefault();
      hover([Math.min(length - 1, Math.max(0, hotRow + step[0])), Math.min(length - 1, Math.max(0, hotColumn + step[1]))]);
      frame.scrollTop = Math.min(Math.max(frame.scrollTop, (hotRow + 2) * CELL + STEEP - frame.clientHeight), hotRow * CELL);
      frame.scrollLeft = Math.min(Math.max(frame.scrollLeft, (hotColumn + 2) * CELL + LABEL - frame.clientWidth), hotColumn * CELL);
    } else if (event.key === 'Enter' && within([hotRow, hotColumn])) of.open(hotRow, hotColumn);
  };
  new ResizeObserver(draw).observe(frame);
  matchMedia('(prefers-color-scheme: dark)').addEventListener('change', draw);
  draw();
}
function fitted(pen, text, width) {
  if (pen.measureText(text).width <= width) return text;
  let kept = text.length - 1;
  while (kept > 1 && pen.measureText(`${text.slice(0, kept)}…`).width > width) kept--;
  return `${text.slice(0, kept)}…`;
}

/** Cycle groups, each with its picture and what the audit says of it. */
function cycles(of) {
  const { groups, more } = D.cycles;
  if (!groups.length) return [make('h1', {}, 'No cycle groups'), make('p', {}, 'Nothing here needs itself, over however many others.')];
  const chosen = Math.min(groups.length, Math.max(1, Number(of.cycle) || 1)) - 1;
  const group = groups[chosen], names = new Set(group.names.map(name => S[name]));
  const told = numbers(D.findings.rule.length).filter(finding => ruleOf(finding).family === 'cycles' && S[D.findings.subject[finding]].split(' > ').every(part => names.has(part)));
  const title = (one, number) => `${number + 1}: ${S[one.names[0]]} and ${one.names.length - 1} more`;
  return [make('div', { class: 'filters' }, groups.length > 1 && make('select', { 'aria-label': 'Cycle group', change: event => { location.hash = address({ cycle: event.target.selectedIndex + 1 }); } }, groups.map((one, number) => make('option', { selected: number === chosen }, title(one, number)))),
    make('small', {}, count(groups.length + more, 'cycle group', 'cycle groups'), more ? `, the largest ${groups.length} here` : '')),
    make('h1', {}, make('span', { class: 'kind' }, 'cycle group of '), group.names.length),
    told.length ? told.slice(0, 8).map(finding => make('div', { class: 'card' }, make('div', {}, sign(D.findings.severity[finding]), make('a', { href: findingHref(finding) }, ruleOf(finding).name), ' ', linked(S[D.findings.subject[finding]])), make('p', {}, linked(S[D.findings.message[finding]])), make('ul', {}, numbers(D.findings.fix[finding + 1] - D.findings.fix[finding]).map(fix => make('li', {}, linked(S[D.findings.fixes.title[D.findings.fix[finding] + fix]]))))))
      : make('p', {}, 'The audit finds no fault in it: some of its needs are lazy, or met after building.'),
    group.drawn ? groupPicture(group) : groupMatrix(group)];
}

function groupPicture(group) {
  const { width, height, boxes, labels, paths } = group.drawn;
  const marker = make('svg:marker', { id: 'arrow', viewBox: '0 0 10 10', refX: 9, refY: 5, markerWidth: 10, markerHeight: 10, markerUnits: 'userSpaceOnUse', orient: 'auto' }, make('svg:path', { class: 'head circle', d: 'M0 1L10 5L0 9Z' }));
  const href = row => { const known = (X.byName.get(S[group.names[row]]) || []).find(subject => ['service', 'provider', 'tag', 'contract'].includes(kindOf(subject))); return known === undefined ? undefined : hrefOf(known); };
  return make('div', { class: 'picture' }, make('svg:svg', { width: width + 30, height: height + 30, viewBox: `-15 -15 ${width + 30} ${height + 30}`, role: 'img', 'aria-label': 'the cycle group' }, make('svg:defs', {}, marker),
    boxes.map(([x, y, w, h], row) => make('svg:a', { href: href(row) }, make('svg:title', {}, `${group.sorts[row]} ${S[group.names[row]]}`), make('svg:rect', { class: 'box', x, y, width: w, height: h, rx: 5 }),
      make('svg:text', { x: x + 10, y: y + (S[group.modules[row]] ? 15 : h / 2 + 4) }, labels[row]), S[group.modules[row]] && make('svg:text', { class: 'soft', x: x + 10, y: y + h - 6 }, S[group.modules[row]]))),
    paths.map((d, at) => d && make('svg:path', { class: `edge circle ${group.needs[at][2]}`, d, 'marker-end': 'url(#arrow)' }, make('svg:title', {}, `${S[group.names[group.needs[at][0]]]} needs ${S[group.names[group.needs[at][1]]]} ${group.needs[at][2]}${S[group.needs[at][3]] ? `: ${S[group.needs[at][3]]}` : ''}`)))));
}

function groupMatrix(group) {
  const frame = make('div', { class: 'matrix', tabindex: 0, role: 'application', 'aria-label': 'Matrix of the cycle group' });
  frame.style.height = '60vh';
  const status = make('small', {}, 'rows need columns; a corner: a need that breaks the order, and so closes the circle');
  const words = new Map(group.needs.map(([from, to, manner, slots]) => [`${from} ${to}`, `${manner}${S[slots] ? `: ${S[slots]}` : ''}`]));
  const open = row => { const known = (X.byName.get(S[group.names[row]]) || [])[0]; if (known !== undefined) location.hash = hrefOf(known); };
  requestAnimationFrame(() => matrix(frame, { names: group.names.map(name => S[name]), group: group.names.map(() => 1), fault: group.names.map(() => -1), row: group.needs.map(need => need[0]), column: group.needs.map(need => need[1]), count: group.needs.map(() => 1), isBroken: () => false, open, name: open,
    tell: (row, column) => { status.textContent = `${S[group.names[row]]} → ${S[group.names[column]]} ${words.get(`${row} ${column}`) || ''}`; } }));
  return [status, frame];
}

// The frame around the views.

function route() {
  const of = {};
  for (const part of location.hash.slice(1).split('&').filter(Boolean)) {
    const cut = part.indexOf('=');
    try { of[decodeURIComponent(cut < 0 ? part : part.slice(0, cut))] = cut < 0 ? true : decodeURIComponent(part.slice(cut + 1)); } catch { /* a broken address is none */ }
  }
  return of;
}

function show() {
  const of = route(), view = $('view');
  const typed = document.activeElement && document.activeElement.id === 'text' ? [document.activeElement.selectionStart, document.activeElement.selectionEnd] : null;
  const kind = D.kinds.find(kind => typeof of[kind] === 'string');
  const isCells = of.modules !== undefined;
  const isFindings = of.findings !== undefined;
  let elements, tab = 'overview';
  if (D.changes && (of.changes !== undefined || !location.hash.slice(1))) { elements = changes(); tab = 'changes'; }
  else if (isFindings) { elements = findings(of); tab = 'findings'; }
  else if (isCells) { elements = modules(of); tab = 'modules'; }
  else if (of.cycle !== undefined || of.cycles !== undefined) { elements = cycles(of); tab = 'cycles'; }
  else if (of.list && CALLED[of.list]) { elements = listing(of.list, of); tab = of.list; }
  else if (kind) { elements = thing(kind, of[kind]); tab = kind; }
  else elements = overview();
  X.list = undefined;
  view.className = isFindings || isCells || of.list ? 'whole' : '';
  view.replaceChildren(...elements.flat(9).filter(Boolean));
  view.scrollTop = 0;
  for (const link of $('tabs').children) if (link.dataset.tab === tab) { link.setAttribute('aria-current', 'page'); link.scrollIntoView({ block: 'nearest', inline: 'nearest' }); } else link.removeAttribute('aria-current');
  document.title = `${view.querySelector('h1')?.textContent || tab} – Corvant`;
  if (typed) { const field = $('text'); field?.focus(); field?.setSelectionRange(...typed); }
}

function tabs() {
  const has = D.kinds.map((kind, number) => [kind, D.things.subjects.kind.filter(one => one === number).length]);
  const link = (tab, href, word, number) => make('a', { href, 'data-tab': tab }, word, number === undefined ? '' : make('small', {}, ` ${number.toLocaleString('en')}`));
  $('tabs').append(D.changes ? link('changes', '#changes', 'Changes') : '', link('overview', '#overview', 'Overview'), link('findings', '#findings', 'Findings', D.findings.rule.length), ...has.filter(([kind, number]) => number && kind === 'service').map(([kind, number]) => link(kind, address({ list: kind }), CALLED[kind], number)),
    link('modules', '#modules', 'Modules', D.modules.name.length), link('cycles', '#cycles', 'Cycles', D.cycles.groups.length + D.cycles.more), ...has.filter(([kind, number]) => number && !['service', 'module'].includes(kind)).map(([kind, number]) => link(kind, address({ list: kind }), CALLED[kind], number)));
}

function searching() {
  const query = $('query'), hits = $('hits');
  const close = () => { hits.hidden = true; };
  query.addEventListener('input', () => {
    const text = query.value.trim().toLowerCase();
    if (!text) return close();
    const found = search(text, 60).sort((one, other) => Number(nameOf(other).toLowerCase() === text) - Number(nameOf(one).toLowerCase() === text) || D.things.subjects.kind[one] - D.things.subjects.kind[other]).slice(0, 30);
    hits.replaceChildren(...(found.length ? found.map(subject => make('a', { href: hrefOf(subject), click: () => { close(); query.value = ''; } }, make('span', { class: 'soft' }, `${kindOf(subject)} `), nameOf(subject), X.types[subject] && make('small', {}, `  ${X.types[subject]}`))) : [make('p', {}, 'nothing here is called so')]));
    hits.hidden = false;
  });
  $('search').addEventListener('submit', event => { event.preventDefault(); hits.querySelector('a')?.click(); });
  $('search').addEventListener('keydown', event => {
    const links = [query, ...hits.querySelectorAll('a')], here = links.indexOf(document.activeElement);
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (event.key === 'Escape') { close(); query.blur(); } else if (step && !hits.hidden) { event.preventDefault(); links[Math.min(links.length - 1, Math.max(0, here + step))].focus(); }
  });
  document.addEventListener('click', event => { if (!$('search').contains(event.target)) close(); });
  document.addEventListener('keydown', event => { if (event.key === '/' && !/^(INPUT|SELECT|TEXTAREA)$/.test(document.activeElement?.tagName || '')) { event.preventDefault(); query.focus(); } });
}

(async () => {
  try {
    D = await unpack($('data').textContent);
    $('data').remove();
    S = D.strings;
    X = index();
    $('root').textContent = S[D.root];
    const errors = D.findings.severity.filter(severity => severity === 0).length;
    $('verdict').append(make('a', { href: '#findings', class: D.isFailing ? 'error' : 'good' }, D.isFailing ? '■ do not deploy' : '● can be deployed', errors ? ` (${count(errors, 'error', 'errors')})` : ''));
    tabs(); searching();
    addEventListener('hashchange', show);
    addEventListener('beforeprint', () => X.list?.whole());
    addEventListener('afterprint', () => X.list?.update());
    show();
    performance.mark('shown');
    document.body.dataset.ready = 'yes';
  } catch (error) {
    $('view').replaceChildren(make('p', { class: 'waiting' }, `The report cannot be unpacked here: ${error.message}`));
    throw error;
  }
})();
