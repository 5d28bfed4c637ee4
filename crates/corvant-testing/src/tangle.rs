//! Small workspaces in which everything meets: few names, defined, needed, tagged and limited at random.
//!
//! They are full of faults that nobody knows beforehand; two ways to look at one of them must see the same.

use crate::corpus::Random;
use std::fmt::Write;

const STAGES: [&str; 3] = ["drill", "night", "production"];
const CONTRACTS: [&str; 6] = ["A", "B", "C", "Store<*>", "Store<A>", "Store<B>"];

/// The files of a tangle: path and text. The same seed makes the same text.
pub fn tangle(seed: u64) -> Vec<(String, String)> {
    let mut random = Random::new(seed);
    let modules = 1 + random.below(3);
    let mut files: Vec<(String, String)> = (0..modules)
        .map(|module| (format!("m{module}.wiring.yaml"), manifest(&mut random, module)))
        .collect();
    if random.below(3) == 0 {
        files.push(("corvant.toml".to_owned(), workspace_file(&mut random)));
    }
    files
}

fn pick<'a>(random: &mut Random, from: &[&'a str]) -> &'a str {
    from[random.below(from.len())]
}

fn id(random: &mut Random) -> String {
    format!("s{}", random.below(9))
}

/// `before` and what `make` makes, one time in `times`.
fn maybe(random: &mut Random, times: usize, make: impl FnOnce(&mut Random) -> String) -> String {
    if random.below(times) == 0 { make(random) } else { String::new() }
}

fn stages(random: &mut Random) -> String {
    let first = pick(random, &STAGES);
    let second = maybe(random, 3, |random| format!(", {}", pick(random, &STAGES)));
    format!("stages: [{first}{second}], ")
}

fn needs(random: &mut Random) -> String {
    let count = random.below(4);
    let needs = (0..count).map(|slot| {
        let target = match random.below(8) {
            0..=2 => format!("service: {}", id(random)),
            3 | 4 => format!("contract: {}", pick(random, &CONTRACTS)),
            5 => format!("contract: {}, key: {}", pick(random, &CONTRACTS), pick(random, &["k", "l"])),
            6 => format!("tag: {}", pick(random, &["t", "u"])),
            _ => format!("setting: {}", pick(random, &["x", "y", "z"])),
        };
        let how = pick(
            random,
            &["", "", "", ", lazy: true", ", optional: true", ", via: setter", ", via: look-up"],
        );
        format!("n{slot}: {{ {target}{how} }}")
    });
    let needs: Vec<String> = needs.collect();
    format!("needs: {{ {} }}, ", needs.join(", "))
}

fn service(random: &mut Random) -> String {
    let mut text = String::new();
    text += &maybe(random, 3, stages);
    let role = match random.below(12) {
        0 => format!("alias-of: {}, ", id(random)),
        1 => format!("wraps: {}, ", id(random)),
        2 => format!("replaces: {}, ", id(random)),
        3 => format!("like: {}, ", id(random)),
        4 => "template: true, ".to_owned(),
        5 => format!("built-by: {{ service: {} }}, ", id(random)),
        _ => String::new(),
    };
    text += &role;
    text += &maybe(random, 2, |random| format!("offers: [\"{}\"], ", pick(random, &CONTRACTS)));
    text += &maybe(random, 4, |random| format!("key: {}, ", pick(random, &["k", "l"])));
    text += &maybe(random, 6, |_| "default: true, ".to_owned());
    text +=
        &maybe(random, 3, |random| format!("lifetime: {}, ", pick(random, &["process", "request", "use"])));
    text += &maybe(random, 8, |_| "internal: true, ".to_owned());
    text += &maybe(random, 3, |random| {
        let tag = pick(random, &["t", "u", "v"]);
        format!("tags: [{{ {tag}: {{ at: {}, in: {} }} }}], ", random.below(3), random.below(2))
    });
    text + &needs(random)
}

fn manifest(random: &mut Random, module: usize) -> String {
    let mut text = format!("corvant: 1\nmodule: m{module}\nservices:\n");
    let mut seen = Vec::new();
    for _ in 0..3 + random.below(6) {
        let id = id(random);
        if !seen.contains(&id) {
            writeln!(text, "  {id}: {{ {} }}", service(random)).expect("writing to a String");
            seen.push(id);
        }
    }
    text += &maybe(random, 2, |random| {
        let value = |random: &mut Random| match random.below(4) {
            0 => "1".to_owned(),
            1 => "'${y}'".to_owned(),
            2 => "{ required: true }".to_owned(),
            _ => format!("{{ stages: {{ {}: '${{z}}' }} }}", pick(random, &STAGES)),
        };
        format!("settings: {{ x: {}, y: {} }}\n", value(random), value(random))
    });
    text += &maybe(random, 3, |random| {
        format!(
            "choices: {{ A: {{ default: {}, stages: {{ {}: {{ default: {}, keys: {{ k: {} }} }} }} }} }}\n",
            id(random),
            pick(random, &STAGES),
            id(random),
            id(random)
        )
    });
    text += &maybe(random, 3, |_| {
        "contracts: { A: { extends: [B] }, \"Store<*>\": { extends: [C] } }\n".to_owned()
    });
    text += &maybe(random, 2, |random| {
        format!(
            "tags: {{ t: {{ contract: {}, at-least: {}, carried-by-all: {}, attributes: {{ at: {{ kind: integer, unique: true }}, in: {{ kind: integer, required: true }} }} }} }}\n",
            pick(random, &["A", "B", "C"]),
            random.below(3),
            random.below(2) == 0
        )
    });
    text += &maybe(random, 3, |random| {
        format!(
            "providers: {{ p{module}: {{ registers: [{}], register: {{ {} }}, after: [p0] }} }}\n",
            id(random),
            needs(random).trim_end_matches(", ")
        )
    });
    text += &maybe(random, 4, |random| {
        format!("roster: {{ {}: [p1, p0], {}: [p0] }}\n", STAGES[random.below(2)], STAGES[2])
    });
    text += &maybe(random, 2, |random| {
        format!("entries: {{ e{module}: {{ {} }} }}\n", needs(random).trim_end_matches(", "))
    });
    text += &maybe(random, 4, |random| format!("expect: [{{ contract: A, met-by: {} }}]\n", id(random)));
    text
}

fn workspace_file(random: &mut Random) -> String {
    let same_id = pick(random, &["forbid", "first", "last"]);
    let disabled = maybe(random, 3, |_| "workspace.disabled = ['m1']\n".to_owned());
    let stage = pick(random, &STAGES);
    format!(
        "policy.same-id = '{same_id}'\n{disabled}stages.{stage} = {{ x = '${{y}}', z = 1 }}\nroster = ['p0', 'p1']\n"
    )
}
