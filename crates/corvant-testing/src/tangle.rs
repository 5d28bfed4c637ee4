//! Small workspaces in which everything meets: few names, defined, needed, tagged and limited at random, with
//! every field of the format.
//!
//! They are full of faults that are not known beforehand; two ways to look at one of them must see the same. Some
//! names are misspellings of others; some files cannot be read, and some services are installed.

use crate::corpus::Random;
use std::fmt::Write;

const STAGES: [&str; 3] = ["drill", "night", "production"];
const IDS: [&str; 14] =
    ["s0", "s1", "s2", "s3", "s4", "s5", "s6", "s7", "s8", "sO", "h", "lamps", "clamps", "lamsp"];
const CONTRACTS: [&str; 12] = [
    "A",
    "B",
    "C",
    "H",
    "Store<*>",
    "Store<Alpha>",
    "Store<Beta>",
    "Map<*,*>",
    "Map<Alpha,Beta>",
    "Clock",
    "Clocks",
    SCRIPTS,
];
/// A group of names that scripts are installed under, of which none is meant to be all there are.
const SCRIPTS: &str = "console_scripts";
const KEYS: [&str; 2] = ["k", "l"];
const TAGS: [&str; 3] = ["t", "u", "v"];
const SETTINGS: [&str; 6] = ["x", "y", "z", "w", "speed", "sped"];
const LIFETIMES: [&str; 4] = ["process", "request", "use", "day"];
const TYPES: [&str; 2] = ["velmora.One", "velmora.Two"];

/// The files of a tangle: path and text. The same seed makes the same text.
pub fn tangle(seed: u64) -> Vec<(String, String)> {
    let mut random = Random::new(seed);
    let modules = 1 + random.below(3);
    let files = modules + random.below(2);
    let mut files: Vec<(String, String)> = (0..files)
        .map(|file| (format!("w/m{file}.wiring.yaml"), manifest(&mut random, file, file % modules)))
        .collect();
    if random.below(2) == 0 {
        files.push(("corvant.toml".to_owned(), workspace_file(&mut random)));
    }
    if random.below(5) == 0 {
        let paths = ["w/broken.wiring.yaml", "broken.wiring.yaml", "broken-opaque.wiring.yaml"];
        let path = pick(&mut random, &paths);
        files.push((path.to_owned(), broken(&mut random)));
    }
    for place in ["w/east", "w/west"].into_iter().filter(|_| random.below(5) == 0).collect::<Vec<_>>() {
        for distribution in ["one", "two"].into_iter().filter(|_| random.below(2) == 0).collect::<Vec<_>>() {
            let folder = format!("{place}/{distribution}-1.dist-info");
            files.push((format!("{folder}/entry_points.txt"), entry_points(&mut random)));
            if random.below(2) == 0 {
                files.push((format!("{folder}/RECORD"), "velmora/__init__.py,,\n".to_owned()));
            }
        }
    }
    files
}

/// A file that cannot be read, or in which something cannot; it may speak of anything.
fn broken(random: &mut Random) -> String {
    let (id, other, provider) = (id(random), id(random), pick(random, &["p0", "p9"]));
    let (contract, setting) = (pick(random, &CONTRACTS), pick(random, &SETTINGS));
    let (tag, key, module) = (pick(random, &TAGS), pick(random, &KEYS), pick(random, &["m0", "m1", "m9"]));
    let text = match random.below(6) {
        0 => format!("services: {{ {id}: {{ offers: [{contract}], key: {key} "),
        1 => format!("settings: {{ {setting}: 1 }}, {id}\n  - {tag}: {other}"),
        2 => format!("providers: {{ {provider}: [{contract}, {other}] }}"),
        3 => format!("uses: {{ {module}: {provider} }}"),
        4 => format!("services: {{ {id}: [{other}, {contract}, {setting}, {tag}, {provider}] }}"),
        _ => format!("tags: {{ {tag}: {module} }}\nexpect: {key}"),
    };
    let module = maybe(random, 2, |random| {
        let uses = maybe(random, 2, |random| format!("uses: {}\n", some(random, &["m0", "m1", "m2"])));
        format!("module: {}\n{uses}", pick(random, &["m0", "m1", "m2"]))
    });
    format!("corvant: 1\n{module}{text}\n")
}

/// What an installed distribution offers, by name.
fn entry_points(random: &mut Random) -> String {
    let mut text = String::new();
    for group in [pick(random, &CONTRACTS[..4]), SCRIPTS] {
        let lines = ["k", "l", "K"].map(|key| {
            maybe(random, 2, |random| {
                format!("{key} = {}:One\n", pick(random, &["velmora", "velmora", "velmora.gone"]))
            })
        });
        write!(text, "[{group}]\n{}", lines.concat()).expect("writing to a String");
    }
    text
}

/// As few lines of some files as still have what `is_wrong` looks for. Lines that others stand below go with them.
pub fn smallest(
    mut files: Vec<(String, String)>,
    is_wrong: impl Fn(&[(String, String)]) -> bool,
) -> Vec<(String, String)> {
    let mut has_changed = true;
    while std::mem::take(&mut has_changed) {
        for file in 0..files.len() {
            let mut line = 0;
            while line < files[file].1.lines().count() {
                let mut fewer = files.clone();
                fewer[file].1 = without_line(&files[file].1, line);
                if is_read_whole(&fewer) && is_wrong(&fewer) {
                    files = fewer;
                    has_changed = true;
                } else {
                    line += 1;
                }
            }
        }
    }
    files.retain(|(_, text)| !text.is_empty());
    files
}

/// A text without one of its lines and what is indented below it.
fn without_line(text: &str, line: usize) -> String {
    let lines: Vec<&str> = text.lines().collect();
    let indent = |line: &str| line.len() - line.trim_start().len();
    let below = lines[line + 1..].iter().take_while(|below| indent(below) > indent(lines[line])).count();
    let kept = lines.iter().enumerate().filter(|(at, _)| !(line..=line + below).contains(at));
    kept.map(|(_, kept)| format!("{kept}\n")).collect()
}

fn is_read_whole(files: &[(String, String)]) -> bool {
    let texts = files.iter().map(|(path, text)| (path.as_str(), text.as_str()));
    let workspace = corvant_read::workspace::from_texts(texts.filter(|(_, text)| !text.is_empty()));
    let is_meant = |manifest: &corvant_core::wiring::Manifest| {
        manifest.source.path.contains("broken") || manifest.facts.troubles.is_empty()
    };
    workspace.is_ok_and(|workspace| workspace.manifests.iter().all(is_meant))
}

fn pick<'a>(random: &mut Random, from: &[&'a str]) -> &'a str {
    from[random.below(from.len())]
}

fn id(random: &mut Random) -> &'static str {
    pick(random, &IDS)
}

/// What `make` makes, one time in `times`.
fn maybe(random: &mut Random, times: usize, make: impl FnOnce(&mut Random) -> String) -> String {
    if random.below(times) == 0 { make(random) } else { String::new() }
}

/// One or two of some names, as a list.
fn some(random: &mut Random, from: &[&str]) -> String {
    let first = pick(random, from);
    let second = Some(pick(random, from)).filter(|&second| second != first && random.below(3) == 0);
    let all = std::iter::once(first).chain(second).map(|name| format!("\"{name}\""));
    format!("[{}]", all.collect::<Vec<_>>().join(", "))
}

fn about(random: &mut Random) -> String {
    maybe(random, 9, |_| "about: some words, ".replace(',', " and more,"))
}

fn needs(random: &mut Random, may_wrap: bool) -> String {
    let count = random.below(4);
    let needs = (0..count).map(|slot| {
        let target = match random.below(if may_wrap { 10 } else { 9 }) {
            0..=2 => format!("service: {}", id(random)),
            3 => format!("contract: \"{}\"", pick(random, &CONTRACTS)),
            4 => format!("all: \"{}\"", pick(random, &CONTRACTS)),
            5 | 6 => format!("contract: \"{}\", key: {}", pick(random, &CONTRACTS), pick(random, &KEYS)),
            7 => format!("tag: {}", pick(random, &TAGS)),
            8 => format!("setting: {}", pick(random, &SETTINGS)),
            _ => "wrapped: true".to_owned(),
        };
        let how = [
            "",
            "",
            "",
            "",
            ", lazy: true",
            ", optional: true",
            ", via: setter, method: set",
            ", via: setter, method: put",
        ];
        let more = [", via: look-up", ", via: property", ", via: factory, method: make", ", about: a line"];
        let how = pick(random, &[&how[..], &more[..]].concat());
        format!("n{slot}: {{ {target}{how} }}")
    });
    let needs: Vec<String> = needs.collect();
    format!("needs: {{ {} }}", needs.join(", "))
}

fn service(random: &mut Random) -> String {
    let mut fields = vec![about(random).trim_end_matches(", ").to_owned()];
    fields.push(maybe(random, 4, |random| format!("stages: {}", some(random, &STAGES))));
    fields.push(maybe(random, 9, |random| format!("except: {}", some(random, &STAGES))));
    let may_wrap = random.below(8) == 0;
    if may_wrap {
        fields.push(format!("wraps: {}", id(random)));
    }
    fields.push(match random.below(12) {
        0 | 1 => format!("alias-of: {}", id(random)),
        2 => "template: true".to_owned(),
        3 => format!("built-by: {{ service: {}, method: {} }}", id(random), pick(random, &["make", "build"])),
        _ => String::new(),
    });
    fields.push(maybe(random, 8, |random| format!("replaces: {}", id(random))));
    fields.push(maybe(random, 6, |random| format!("like: {}", id(random))));
    fields.push(maybe(random, 2, |random| format!("offers: {}", some(random, &CONTRACTS))));
    fields.push(maybe(random, 4, |random| format!("key: {}", pick(random, &KEYS))));
    fields.push(maybe(random, 6, |_| "default: true".to_owned()));
    fields.push(maybe(random, 3, |random| format!("lifetime: {}", pick(random, &LIFETIMES))));
    fields.push(maybe(random, 5, |random| format!("type: {}", pick(random, &TYPES))));
    fields.push(maybe(random, 6, |_| "internal: true".to_owned()));
    // No type of a tangle is declared, so nothing could be filled by type.
    fields.push(maybe(random, 9, |_| "wire: none".to_owned()));
    fields.push(maybe(random, 3, |random| {
        let one = |random: &mut Random| {
            let tag = pick(random, &TAGS);
            match random.below(3) {
                0 => tag.to_owned(),
                1 => format!("{{ {tag}: {{ at: {}, in: {} }} }}", random.below(3), random.below(2)),
                _ => format!(
                    "{{ {tag}: {{ at: {}, on: {} }} }}",
                    random.below(2),
                    pick(random, &["a", "b", "true"])
                ),
            }
        };
        let second = maybe(random, 3, |random| format!(", {}", one(random)));
        format!("tags: [{}{second}]", one(random))
    }));
    let may_need_inside = may_wrap || random.below(8) == 0;
    fields.push(maybe(random, 4, |random| needs(random, may_need_inside)));
    if may_wrap && fields.last().is_some_and(String::is_empty) {
        fields.push(needs(random, true));
    } else if fields.last().is_some_and(String::is_empty) {
        fields.push(needs(random, false));
    }
    fields.retain(|field| !field.is_empty());
    fields.join(", ")
}

fn setting(random: &mut Random) -> String {
    match random.below(7) {
        0 => "1".to_owned(),
        1 => "2".to_owned(),
        2 => "'${y}'".to_owned(),
        3 => "[a, '${w}']".to_owned(),
        4 => "{ required: true, about: a line }".to_owned(),
        5 => format!("{{ stages: {{ {}: '${{z}}' }} }}", pick(random, &STAGES)),
        _ => format!("{{ value: 1, stages: {{ {}: 2 }} }}", pick(random, &STAGES)),
    }
}

fn contract(random: &mut Random) -> String {
    let extends = maybe(random, 2, |random| format!("extends: {}, ", some(random, &CONTRACTS)));
    let meant = maybe(random, 3, |random| format!("meant-for: {}, ", pick(random, &["one", "key", "all"])));
    let keys = maybe(random, 4, |random| format!("keys: {}, ", some(random, &KEYS)));
    let text = format!("{}{extends}{meant}{keys}", about(random));
    format!("\"{}\": {{ {} }}", pick(random, &CONTRACTS), text.trim_end_matches(", "))
}

fn tag(random: &mut Random) -> String {
    let mut text = about(random);
    text += &maybe(random, 2, |random| format!("contract: \"{}\", ", pick(random, &CONTRACTS)));
    text += &maybe(random, 3, |_| "carried-by-all: true, ".to_owned());
    text += &maybe(random, 3, |random| format!("collected-by: {}, ", id(random)));
    text += &maybe(random, 3, |random| format!("at-least: {}, ", random.below(4)));
    text += &maybe(random, 2, |random| {
        let unique = if random.below(3) == 0 { ", unique: true" } else { "" };
        let number = pick(random, &["integer", "number"]);
        let on = maybe(random, 2, |random| {
            let kind = pick(random, &["text", "boolean"]);
            format!(", on: {{ about: a line, kind: {kind}, one-of: [a, true] }}")
        });
        format!(
            "attributes: {{ at: {{ kind: {number}, required: true{unique} }}, in: {{ required: false }}{on} }}, "
        )
    });
    format!("{}: {{ {} }}", pick(random, &TAGS), text.trim_end_matches(", "))
}

/// Some lines of a map, each name once.
fn section(random: &mut Random, name: &str, most: usize, line: impl Fn(&mut Random) -> String) -> String {
    let mut lines: Vec<String> = Vec::new();
    for _ in 0..=random.below(most) {
        let line = line(random);
        let key = |line: &str| line.split(": ").next().unwrap_or_default().to_owned();
        if lines.iter().all(|known| key(known) != key(&line)) {
            lines.push(line);
        }
    }
    format!("{name}:\n{}", lines.iter().map(|line| format!("  {line}\n")).collect::<String>())
}

fn choice(random: &mut Random) -> String {
    let one = |random: &mut Random| {
        let default = maybe(random, 2, |random| format!("default: {}, ", id(random)));
        let keys =
            maybe(random, 2, |random| format!("keys: {{ {}: {} }}, ", pick(random, &KEYS), id(random)));
        format!("{default}{keys}")
    };
    let mut text = one(random);
    text += &maybe(random, 3, |random| {
        format!("stages: {{ {}: {{ {} }} }}, ", pick(random, &STAGES), one(random).trim_end_matches(", "))
    });
    format!("\"{}\": {{ {} }}", pick(random, &CONTRACTS), text.trim_end_matches(", "))
}

fn provider(random: &mut Random) -> String {
    let mut text = about(random);
    text += &maybe(random, 3, |random| format!("type: {}, ", pick(random, &TYPES)));
    text += &maybe(random, 2, |random| format!("registers: {}, ", some(random, &IDS)));
    text += &maybe(random, 2, |random| format!("register: {{ {} }}, ", needs(random, false)));
    text += &maybe(random, 2, |random| format!("start: {{ {} }}, ", needs(random, false)));
    text += &maybe(random, 3, |random| format!("after: {}, ", some(random, &["p0", "p1", "p2"])));
    format!("{}: {{ {} }}", pick(random, &["p0", "p1", "p2"]), text.trim_end_matches(", "))
}

fn expectation(random: &mut Random) -> String {
    let mut text = match random.below(3) {
        0 => format!("service: {}", id(random)),
        1 => format!("contract: \"{}\"", pick(random, &CONTRACTS)),
        _ => format!("contract: \"{}\", key: {}", pick(random, &CONTRACTS), pick(random, &KEYS)),
    };
    text += &maybe(random, 2, |random| format!(", met-by: {}", id(random)));
    text += &maybe(random, 4, |random| format!(", type: {}", pick(random, &TYPES)));
    text += &maybe(random, 4, |random| format!(", lifetime: {}", pick(random, &LIFETIMES)));
    format!("expect: [{{ {text} }}]\n")
}

fn supplied(random: &mut Random) -> String {
    let kinds: [(&str, &[&str]); 4] = [
        ("services", &["h", "s8"]),
        ("contracts", &["H", "B", "Map<*,*>"]),
        ("settings", &["w", "z"]),
        ("tags", &["v", "u"]),
    ];
    let names =
        kinds.map(|(kind, names)| maybe(random, 2, |random| format!("{kind}: {}, ", some(random, names))));
    format!("supplied: {{ {} }}\n", names.concat().trim_end_matches(", "))
}

/// What is accepted: a rule, what it may be about, and until when.
fn allowance(random: &mut Random) -> [&'static str; 3] {
    let rule = pick(random, &["unused-service", "missing-service", "service-cycle", "duplicate-service"]);
    [rule, pick(random, &IDS[..6]), pick(random, &["2027-04-30", "2027-05-01"])]
}

fn allow(random: &mut Random) -> String {
    let [rule, subject, until] = allowance(random);
    let until = maybe(random, 2, |_| format!(", until: {until}"));
    format!("allow: [{{ rule: {rule}, subject: {subject}, reason: it went{until} }}]\n")
}

fn manifest(random: &mut Random, file: usize, module: usize) -> String {
    let mut text = format!("corvant: 1\nmodule: m{module}\n");
    text += &maybe(random, 9, |_| "about: a module\n".to_owned());
    text += &maybe(random, 3, |random| format!("uses: {}\n", some(random, &["m0", "m1", "m2", "m9"])));
    text += "services:\n";
    let mut seen = Vec::new();
    for _ in 0..3 + random.below(6) {
        let id = id(random);
        if !seen.contains(&id) {
            writeln!(text, "  {id}: {{ {} }}", service(random)).expect("writing to a String");
            seen.push(id);
        }
    }
    text += &maybe(random, 2, |random| {
        section(random, "settings", 3, |random| format!("{}: {}", pick(random, &SETTINGS), setting(random)))
    });
    text += &maybe(random, 3, |random| section(random, "choices", 2, choice));
    text += &maybe(random, 2, |random| section(random, "contracts", 3, contract));
    text += &maybe(random, 2, |random| section(random, "tags", 2, tag));
    text += &maybe(random, 2, |random| section(random, "providers", 2, provider));
    text += &maybe(random, 5, |random| match random.below(3) {
        0 => format!("roster: {}\n", some(random, &["p0", "p1", "p2", "p9"])),
        1 => format!("roster: {{ {}: [p1, p0, p1], {}: [p0] }}\n", STAGES[random.below(2)], STAGES[2]),
        _ => "roster: [p2, p0, p1]\n".to_owned(),
    });
    text += &maybe(random, 2, |random| {
        let lifetime = maybe(random, 2, |random| format!("lifetime: {}, ", pick(random, &LIFETIMES)));
        let about = about(random);
        format!(
            "entries: {{ e{file}: {{ {about}{lifetime}type: velmora.Page, at: GET /, {} }} }}\n",
            needs(random, false)
        )
    });
    text += &maybe(random, 4, expectation);
    text += &maybe(random, 4, supplied);
    text + &maybe(random, 3, allow)
}

fn workspace_file(random: &mut Random) -> String {
    let mut text = format!("policy.same-id = '{}'\n", pick(random, &["forbid", "first", "last"]));
    text += &maybe(random, 4, |random| {
        format!("policy.same-contract = '{}'\n", pick(random, &["forbid", "first", "last"]))
    });
    text += &maybe(random, 9, |_| "policy.imports-first = true\n".to_owned());
    text += &maybe(random, 9, |_| "policy.wire = 'none'\npolicy.offers = 'super-types'\n".to_owned());
    text += &maybe(random, 6, |_| "policy.default-unless-offered = true\n".to_owned());
    text += &maybe(random, 3, |_| "policy.stage-required = true\n".to_owned());
    text += &maybe(random, 5, |_| "workspace.disabled = ['m1']\n".to_owned());
    text += &maybe(random, 9, |_| "workspace.members = ['w']\nworkspace.exclude = ['nowhere']\n".to_owned());
    text += &maybe(random, 3, |random| {
        let default = maybe(random, 2, |_| "lifetimes.default = 'request'\n".to_owned());
        format!("lifetimes.order = ['process', 'day', 'request']\n{default}")
    });
    text += &maybe(random, 5, |_| "rules.hidden-need = 'warning'\n".to_owned());
    text += &maybe(random, 5, |random| {
        format!("rules.{} = 'off'\n", pick(random, &["unused-service", "missing-service", "stale-allowance"]))
    });
    text += &maybe(random, 2, |random| {
        format!("stages.{} = {{ x = '${{y}}', z = 1, w = {} }}\n", pick(random, &STAGES), random.below(2))
    });
    text += &maybe(random, 2, |_| "roster = ['p0', 'p1']\n".to_owned());
    text += &maybe(random, 5, |_| "supplied.services = ['h']\n".to_owned());
    text +=
        &maybe(random, 5, |random| format!("expect = [{{ contract = 'A', met-by = '{}' }}]\n", id(random)));
    text + &maybe(random, 4, |random| {
        let [rule, subject, until] = allowance(random);
        format!(
            "allow = [{{ rule = '{rule}', subject = '{subject}', reason = 'it went', until = {until} }}]\n"
        )
    })
}
