//! Houses that write YAML.

use super::Network;
use std::fmt::Write;

/// Parts in a list, what they want by slots; `<Clock>` is a contract, `$x` a value.
pub(super) const WANTS: &str = r#"
[[reader]]
name = "parts"
files = ["house/*/parts.yml"]
syntax = "yaml"
module = { path = "house/(?<module>[^/]+)/" }
[[reader.take]]
what = "service"
each = "$.parts[*]"
id = "$.part"
type = "$.class"
offers = "$.plays"
[[reader.take.need]]
each = "$.wants.*"
[[reader.take]]
what = "entry"
each = "$.doors[*]"
id = "$.door"
[[reader.take.need]]
each = "$.through[*]"
[[reader.value]]
match = '^<(?<contract>\w+)>$'
[[reader.value]]
match = '^\$(?<setting>[\w.]+)$'
[[reader.value]]
match = '^(?<service>[\w.-]+)$'

[[reader]]
name = "numbers"
files = ["house/*/numbers.yml"]
syntax = "yaml"
module = { path = "house/(?<module>[^/]+)/" }
[[reader.take]]
what = "setting"
each = "$.*"
id = { key = true }
value = "$"
"#;

pub(super) fn wants(network: &Network) -> Vec<(String, String)> {
    let mut files = Vec::new();
    for module in &network.modules {
        let mut text = String::from("parts:\n");
        for part in &module.parts {
            let _ = writeln!(text, "  - part: {}\n    class: {}", part.name, part.type_name);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "    plays: {contract}");
            }
            if !part.needs.is_empty() {
                text.push_str("    wants:\n");
            }
            for (number, need) in part.needs.iter().enumerate() {
                let slot = ["first", "second", "third", "fourth"][number];
                let value = need.written(["{}", "<{}>", "${}"]);
                let _ = writeln!(text, "      {slot}: {value}");
            }
            let _ = writeln!(text, "    remark: {}", part.about);
        }
        text.push_str("doors:\n");
        for (door, uses) in &module.doors {
            let _ = writeln!(text, "  - door: {door}\n    through: [{}]", uses.join(", "));
        }
        files.push((format!("house/{}/parts.yml", module.name), text));
        let numbers = module.settings.iter().map(|(name, value)| format!("{name}: {value}\n"));
        files.push((format!("house/{}/numbers.yml", module.name), numbers.collect()));
    }
    files
}

/// All sorts in one list, which a word tells apart.
pub(super) const KINDS: &str = r#"
[[reader]]
name = "kinds"
files = ["kinds/*.yaml"]
syntax = "yaml"
module = { in-path = '([^/.]+)\.yaml$' }
[[reader.take]]
what = "service"
each = "$[?@.kind == 'thing']"
id = "$.label"
type = "$.spec.class"
offers = "$.spec.role"
[[reader.take.need]]
each = "$.spec.uses[*]"
[[reader.take]]
what = "setting"
each = "$[?@.kind == 'number']"
id = "$.label"
value = "$.amount"
[[reader.take]]
what = "entry"
each = "$[?@.kind == 'way']"
id = "$.label"
[[reader.take.need]]
each = "$.into[*]"
[[reader.value]]
match = '^@(?<service>[\w.-]+)$'
[[reader.value]]
match = '^%(?<setting>[\w.]+)$'
[[reader.value]]
match = '^any (?<contract>\w+)$'
"#;

pub(super) fn kinds(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut text = String::new();
        for part in &module.parts {
            let _ = writeln!(
                text,
                "- kind: thing\n  label: {}\n  spec:\n    class: {}",
                part.name, part.type_name
            );
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "    role: {contract}");
            }
            let uses = part.written(["\"@{}\"", "any {}", "\"%{}\""]);
            if !uses.is_empty() {
                let _ = writeln!(text, "    uses: [{}]", uses.join(", "));
            }
            let _ = writeln!(text, "  note: {}", part.about);
        }
        for (name, value) in &module.settings {
            let _ = writeln!(text, "- {{ kind: number, label: {name}, amount: {value} }}");
        }
        for (door, uses) in &module.doors {
            let uses: Vec<String> = uses.iter().map(|name| format!("\"@{name}\"")).collect();
            let _ = writeln!(text, "- {{ kind: way, label: {door}, into: [{}] }}", uses.join(", "));
        }
        (format!("kinds/{}.yaml", module.name), text)
    };
    network.modules.iter().map(file).collect()
}

/// A file for each part, called after it.
pub(super) const SHEETS: &str = r#"
[[reader]]
name = "sheets"
files = ["sheets/*/*.yaml"]
syntax = "yaml"
module = { path = "sheets/(?<module>[^/]+)/" }
[[reader.take]]
what = "service"
id = "$.is"
type = "$['made-of']"
offers = "$['counts-as']"
[[reader.take.need]]
each = "$.needs[*]"
service = "$"
[[reader.take.need]]
each = "$.asks[*]"
contract = "$"
[[reader.take.need]]
each = "$.reads[*]"
setting = "$"

[[reader]]
name = "floor"
files = ["floor/*.yaml"]
syntax = "yaml"
module = { in-path = '([^/.]+)\.yaml$' }
[[reader.take]]
what = "setting"
each = "$.numbers.*"
id = { key = true }
value = "$"
[[reader.take]]
what = "entry"
each = "$.doors.*"
id = { key = true }
[[reader.take.need]]
each = "$[*]"
service = "$"
"#;

pub(super) fn sheets(network: &Network) -> Vec<(String, String)> {
    let mut files = Vec::new();
    for module in &network.modules {
        for part in &module.parts {
            let mut text = format!("is: {}\nmade-of: {}\nabout: {}\n", part.name, part.type_name, part.about);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "counts-as: [{contract}]");
            }
            for (field, names) in part.sorted(["needs", "asks", "reads"], "{}") {
                let _ = writeln!(text, "{field}: [{names}]");
            }
            let stem = part.name.split_once('.').map_or("", |(_, name)| name);
            files.push((format!("sheets/{}/{stem}.yaml", module.name), text));
        }
        let mut text = String::from("numbers:\n");
        for (name, value) in &module.settings {
            let _ = writeln!(text, "  {name}: {value}");
        }
        text.push_str("doors:\n");
        for (door, uses) in &module.doors {
            let _ = writeln!(text, "  {door}: [{}]", uses.join(", "));
        }
        files.push((format!("floor/{}.yaml", module.name), text));
    }
    files
}

/// Parts under their ids at the root of a file, references as maps of one.
pub(super) const ROOMS: &str = r#"
[[reader]]
name = "rooms"
files = ["rooms/*/parts.yaml"]
syntax = "yaml"
module = { path = "rooms/(?<module>[^/]+)/" }
[[reader.take]]
what = "service"
each = "$.*"
id = { key = true }
type = "$.of"
offers = "$['stands-for']"
[[reader.take.need]]
each = "$.from[*]"
service = "$.part"
contract = "$.role"
setting = "$.number"

[[reader]]
name = "doors"
files = ["rooms/*/doors.yaml"]
syntax = "yaml"
module = { path = "rooms/(?<module>[^/]+)/" }
[[reader.take]]
what = "entry"
each = "$.*"
id = { key = true }
[[reader.take.need]]
each = "$[*]"
service = "$"

[[reader]]
name = "numbers"
files = ["rooms/*/numbers.yaml"]
syntax = "yaml"
module = { path = "rooms/(?<module>[^/]+)/" }
[[reader.take]]
what = "setting"
each = "$.*"
id = { key = true }
value = "$"
"#;

pub(super) fn rooms(network: &Network) -> Vec<(String, String)> {
    let mut files = Vec::new();
    for module in &network.modules {
        let mut text = String::new();
        for part in &module.parts {
            let _ = writeln!(text, "{}:\n  of: {}\n  note: {}", part.name, part.type_name, part.about);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "  stands-for: [{contract}]");
            }
            if !part.needs.is_empty() {
                text.push_str("  from:\n");
            }
            for need in part.written(["part: {}", "role: {}", "number: {}"]) {
                let _ = writeln!(text, "    - {need}");
            }
        }
        let doors = module.doors.iter().map(|(door, uses)| format!("{door}: [{}]\n", uses.join(", ")));
        let numbers = module.settings.iter().map(|(name, value)| format!("{name}: {value}\n"));
        files.push((format!("rooms/{}/parts.yaml", module.name), text));
        files.push((format!("rooms/{}/doors.yaml", module.name), doors.collect()));
        files.push((format!("rooms/{}/numbers.yaml", module.name), numbers.collect()));
    }
    files
}
