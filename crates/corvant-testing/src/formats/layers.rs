//! Houses that say things in layers: groups in groups, heads and bodies, folders by sort, words around brackets.

use super::{Module, Network, Part};
use std::fmt::Write;

type Files = Vec<(String, String)>;

/// One file for all modules, with groups of items under the name of each, and a word before each name.
pub(super) const AREAS: &str = r#"
[[reader]]
name = "network"
files = ["config/network.yaml"]
syntax = "yaml"
module = { in-path = '([^/.]+)\.yaml$' }
[[reader.take]]
what = "setting"
each = "$.areas.*.figures.*"
id = { key = true }
value = "$"
[[reader.take]]
what = "service"
each = "$.areas.*.workers.*"
id = { key = true }
type = "$.code"
offers = "$.duty"
[[reader.take.need]]
each = "$.takes[*]"
[[reader.take]]
what = "entry"
each = "$.areas.*.counters.*"
id = { key = true }
[[reader.take.need]]
each = "$[*]"
[[reader.value]]
match = '^worker (?<service>.+)$'
[[reader.value]]
match = '^figure (?<setting>.+)$'
[[reader.value]]
match = '^duty (?<contract>.+)$'
"#;

pub(super) fn areas(network: &Network) -> Files {
    let mut text = "edition: 3\nareas:\n".to_owned();
    for module in &network.modules {
        let _ = writeln!(text, "  {}:\n    figures:", module.name);
        for (name, value) in &module.settings {
            let _ = writeln!(text, "      {name}: {value}");
        }
        text += "    workers:\n";
        for part in &module.parts {
            let _ = writeln!(text, "      {}:\n        code: {}", part.name, part.type_name);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "        duty: {contract}");
            }
            list(
                &mut text,
                "        takes:\n",
                "          - ",
                &part.written(["worker {}", "duty {}", "figure {}"]),
            );
        }
        text += "    counters:\n";
        for (door, uses) in &module.doors {
            let uses: Vec<String> = uses.iter().map(|name| format!("worker {name}")).collect();
            let _ = writeln!(text, "      {door}: [{}]", uses.join(", "));
        }
    }
    vec![("config/network.yaml".to_owned(), text)]
}

/// A head with the name and a body with the rest, in a document each.
pub(super) const HEADS: &str = r#"
[[reader]]
name = "sheets"
files = ["sheets/*.yaml"]
syntax = "yaml"
documents = true
module = { in-path = '([^/.]+)\.yaml$' }
[[reader.take]]
what = "service"
only-where = { from = "$.sort", match = "^worker$" }
id = "$.head.name"
type = "$.body.code"
offers = "$.body.duty"
[[reader.take.need]]
each = "$.body.takes[*]"
service = "$.worker"
[[reader.take.need]]
each = "$.body.takes[*]"
contract = "$.duty"
[[reader.take.need]]
each = "$.body.takes[*]"
setting = "$.figure"
[[reader.take]]
what = "setting"
only-where = { from = "$.sort", match = "^figure$" }
id = "$.head.name"
value = "$.body['stands-at']"
[[reader.take]]
what = "entry"
only-where = { from = "$.sort", match = "^counter$" }
id = "$.head.name"
[[reader.take.need]]
each = "$.body.takes[*]"
service = "$.worker"
"#;

pub(super) fn heads(network: &Network) -> Files {
    let file = |module: &Module| {
        let head = |sort: &str, name: &str| {
            format!("sort: {sort}\nhead: {{ name: {name}, area: {} }}\nbody:\n", module.name)
        };
        let part = |part: &Part| {
            let mut text = head("worker", &part.name) + "  code: " + &part.type_name + "\n";
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "  duty: {contract}");
            }
            let takes = part.written(["{ worker: {} }", "{ duty: {} }", "{ figure: {} }"]);
            list(&mut text, "  takes:\n", "    - ", &takes);
            text
        };
        let mut all: Vec<String> = module.parts.iter().map(part).collect();
        let figure =
            |(name, value): &(String, usize)| head("figure", name) + &format!("  stands-at: {value}\n");
        all.extend(module.settings.iter().map(figure));
        let door = |(door, uses): &(String, Vec<String>)| {
            let takes: String = uses.iter().map(|name| format!("    - {{ worker: {name} }}\n")).collect();
            head("counter", door) + "  takes:\n" + &takes
        };
        all.extend(module.doors.iter().map(door));
        (format!("sheets/{}.yaml", module.name), all.join("---\n"))
    };
    network.modules.iter().map(file).collect()
}

/// A file for each thing, in a folder for each sort; settings in one file for all.
pub(super) const FOLDERS: &str = r#"
[[reader]]
name = "workers"
files = ["*/workers/*.toml"]
syntax = "toml"
module = { path = '^(?<module>[^/]+)/' }
[[reader.take]]
what = "service"
id = "$.name"
type = "$.code"
offers = "$.duty"
[[reader.take.need]]
each = "$.takes[*]"
service = "$.worker"
[[reader.take.need]]
each = "$.takes[*]"
contract = "$.duty"
[[reader.take.need]]
each = "$.takes[*]"
setting = "$.figure"
[[reader]]
name = "counters"
files = ["*/counters/*.toml"]
syntax = "toml"
module = { path = '^(?<module>[^/]+)/' }
[[reader.take]]
what = "entry"
id = "$.name"
[[reader.take.need]]
each = "$.takes[*]"
service = "$.worker"
[[reader]]
name = "figures"
files = ["figures.toml"]
syntax = "toml"
module = { in-path = '([^/.]+)\.toml$' }
[[reader.take]]
what = "setting"
each = "$.*.*"
id = { key-path = true }
value = "$"
"#;

pub(super) fn folders(network: &Network) -> Files {
    let mut figures = String::new();
    let mut files = Files::new();
    for module in &network.modules {
        let _ = writeln!(figures, "[{}]", module.name);
        for (name, value) in &module.settings {
            let _ = writeln!(figures, "{} = {value}", name.trim_start_matches(&format!("{}.", module.name)));
        }
        for part in &module.parts {
            let mut text = format!("name = \"{}\"\ncode = \"{}\"\n", part.name, part.type_name);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "duty = \"{contract}\"");
            }
            let takes = ["worker = \"{}\"\n", "duty = \"{}\"\n", "figure = \"{}\"\n"];
            for take in part.written(takes) {
                let _ = write!(text, "[[takes]]\n{take}");
            }
            files.push((format!("{}/workers/{}.toml", module.name, part.name.replace('.', "-")), text));
        }
        for (door, uses) in &module.doors {
            let takes: String = uses.iter().map(|name| format!("[[takes]]\nworker = \"{name}\"\n")).collect();
            files.push((
                format!("{}/counters/{door}.toml", module.name),
                format!("name = \"{door}\"\n{takes}"),
            ));
        }
    }
    files.push(("figures.toml".to_owned(), figures));
    files
}

/// Lists of items in the groups of one file.
pub(super) const TEAMS: &str = r#"
[[reader]]
name = "teams"
files = ["teams.json"]
syntax = "json"
module = { in-path = '([^/.]+)\.json$' }
[[reader.take]]
what = "setting"
each = "$.teams.*.figures[*]"
id = "$.figure"
value = "$.of"
[[reader.take]]
what = "service"
each = "$.teams.*.workers[*]"
id = "$.worker"
type = "$.code"
offers = "$.duty"
[[reader.take.need]]
each = "$.takes[*]"
[[reader.take]]
what = "entry"
each = "$.teams.*.counters[*]"
id = "$.counter"
[[reader.take.need]]
value = "$.takes"
[[reader.value]]
match = '^use\((?<service>.+)\)$'
[[reader.value]]
match = '^any\((?<contract>.+)\)$'
[[reader.value]]
match = '^read\((?<setting>.+)\)$'
"#;

/// Brackets with a word before say what a name is; what an entry asks for stands once in each.
pub(super) fn teams(network: &Network) -> Files {
    let team = |module: &Module| {
        let figure = |(name, value): &(String, usize)| format!("{{\"figure\": \"{name}\", \"of\": {value}}}");
        let worker = |part: &Part| {
            let duty =
                part.offers.iter().map(|contract| format!(", \"duty\": \"{contract}\"")).collect::<String>();
            let takes = part.written(["\"use({})\"", "\"any({})\"", "\"read({})\""]).join(", ");
            format!(
                "{{\"worker\": \"{}\", \"code\": \"{}\"{duty}, \"takes\": [{takes}]}}",
                part.name, part.type_name
            )
        };
        let counter = |(door, uses): &(String, Vec<String>)| {
            format!("{{\"counter\": \"/{door}\", \"takes\": \"use({})\"}}", uses[0])
        };
        format!(
            "\"{}\": {{\"figures\": [{}], \"workers\": [{}], \"counters\": [{}]}}",
            module.name,
            module.settings.iter().map(figure).collect::<Vec<_>>().join(", "),
            module.parts.iter().map(worker).collect::<Vec<_>>().join(",\n"),
            module.doors.iter().map(counter).collect::<Vec<_>>().join(", ")
        )
    };
    let teams: Vec<String> = network.modules.iter().map(team).collect();
    vec![("teams.json".to_owned(), format!("{{\"edition\": 4, \"teams\": {{{}}}}}\n", teams.join(",\n")))]
}

/// One file for all modules; those who ask for something say its module, which stands above it alone.
pub(super) const WARDS: &str = r#"
[[reader]]
name = "city"
files = ["city.toml"]
syntax = "toml"
module = { constant = "city" }
[[reader.take]]
what = "service"
each = "$.ward.*.worker.*"
module = { key = true, above = 2 }
id = { key = true, form = "{module}.{}" }
type = "$.code"
offers = "$.duty"
[[reader.take.need]]
each = "$.takes[*]"
service = "$"
[[reader.take.need]]
each = "$.duties[*]"
contract = "$"
[[reader.take.need]]
each = "$.figures[*]"
setting = "$"
[[reader.take]]
what = "setting"
each = "$.ward.*.figure.*"
module = { key = true, above = 2 }
id = { key = true, form = "{module}.{}" }
value = "$"
[[reader.take]]
what = "entry"
each = "$.ward.*.counter.*"
id = { key = true }
[[reader.take.need]]
each = "$[*]"
service = "$"
"#;

pub(super) fn wards(network: &Network) -> Files {
    let mut text = String::new();
    for module in &network.modules {
        let short =
            |name: &str| format!("\"{}\"", name.strip_prefix(&format!("{}.", module.name)).unwrap_or(name));
        let ward = format!("ward.{}", module.name);
        for part in &module.parts {
            let _ = writeln!(text, "[{ward}.worker.{}]\ncode = \"{}\"", short(&part.name), part.type_name);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "duty = \"{contract}\"");
            }
            for (field, names) in part.sorted(["takes", "duties", "figures"], "\"{}\"") {
                let _ = writeln!(text, "{field} = [{names}]");
            }
        }
        let _ = writeln!(text, "[{ward}.figure]");
        for (name, value) in &module.settings {
            let _ = writeln!(text, "{} = {value}", short(name));
        }
        let _ = writeln!(text, "[{ward}.counter]");
        for (door, uses) in &module.doors {
            let uses: Vec<String> = uses.iter().map(|name| format!("\"{name}\"")).collect();
            let _ = writeln!(text, "{door} = [{}]", uses.join(", "));
        }
    }
    vec![("city.toml".to_owned(), text)]
}

/// A list, if there is anything in it.
fn list(text: &mut String, head: &str, before: &str, items: &[String]) {
    if !items.is_empty() {
        *text += head;
        for item in items {
            let _ = writeln!(text, "{before}{item}");
        }
    }
}
