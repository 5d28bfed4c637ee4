//! Houses that write several things into one file of YAML: documents, tags of their own, calls, and files of several shapes.

use super::Network;
use std::fmt::Write;

/// A document for each thing, with a word for what it is.
pub(super) const DOCUMENTS: &str = r#"
[[reader]]
name = "net"
files = ["net/*.yaml"]
syntax = "yaml"
documents = true
module = { in-path = '([^/.]+)\.yaml$' }
[[reader.take]]
what = "service"
only-where = { from = "$.sort", match = "^part$" }
id = "$.named"
type = "$['made-of']"
offers = "$['serves-as']"
[[reader.take.need]]
each = "$.gets[?@.part]"
service = "$.part"
[[reader.take.need]]
each = "$.gets[?@.any]"
contract = "$.any"
[[reader.take.need]]
each = "$.gets[?@.dial]"
setting = "$.dial"
[[reader.take]]
what = "setting"
only-where = { from = "$.sort", match = "^dial$" }
id = "$.named"
value = "$['stands-at']"
[[reader.take]]
what = "entry"
only-where = { from = "$.sort", match = "^door$" }
id = "$.named"
[[reader.take.need]]
each = "$.gets[?@.part]"
service = "$.part"
"#;

pub(super) fn documents(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut all = Vec::new();
        for part in &module.parts {
            let mut text = format!("sort: part\nnamed: {}\nmade-of: {}\n", part.name, part.type_name);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "serves-as: {contract}");
            }
            let gets: String = part.written(["  - part: {}\n", "  - any: {}\n", "  - dial: {}\n"]).concat();
            if !gets.is_empty() {
                let _ = write!(text, "gets:\n{gets}");
            }
            all.push(text);
        }
        let dial =
            |(name, value): &(String, usize)| format!("sort: dial\nnamed: {name}\nstands-at: {value}\n");
        all.extend(module.settings.iter().map(dial));
        let door = |(door, uses): &(String, Vec<String>)| {
            let gets: String = uses.iter().map(|name| format!("  - part: {name}\n")).collect();
            format!("sort: door\nnamed: {door}\ngets:\n{gets}")
        };
        all.extend(module.doors.iter().map(door));
        (format!("net/{}.yaml", module.name), all.join("---\n"))
    };
    network.modules.iter().map(file).collect()
}

/// Tags say what a name is.
pub(super) const TAGS: &str = r#"
[[reader]]
name = "wires"
files = ["*/wires.yaml"]
syntax = "yaml"
local-tags = true
module = { path = '^(?<module>[^/]+)/' }
[[reader.take]]
what = "service"
each = "$.parts.*"
id = { key = true }
type = "$.made"
offers = "$.plays"
[[reader.take.need]]
each = "$.from[*]"
service = "$['!part']"
contract = "$['!any']"
setting = "$['!dial']"
[[reader.take]]
what = "setting"
each = "$.dials.*"
id = { key = true }
value = "$"
[[reader.take]]
what = "entry"
each = "$.doors.*"
id = { key = true }
[[reader.take.need]]
each = "$[*]"
service = "$['!part']"
"#;

pub(super) fn tags(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut text = String::from("dials:\n");
        for (name, value) in &module.settings {
            let _ = writeln!(text, "  {name}: {value}");
        }
        text.push_str("parts:\n");
        for part in &module.parts {
            let from = part.written(["!part {}", "!any {}", "!dial {}"]).join(", ");
            let _ = writeln!(text, "  {}:\n    made: {}\n    from: [{from}]", part.name, part.type_name);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "    plays: {contract}");
            }
        }
        text.push_str("doors:\n");
        for (door, uses) in &module.doors {
            let uses: Vec<String> = uses.iter().map(|name| format!("!part {name}")).collect();
            let _ = writeln!(text, "  {door}: [{}]", uses.join(", "));
        }
        (format!("{}/wires.yaml", module.name), text)
    };
    network.modules.iter().map(file).collect()
}

/// A part is its type with what that is given; roles are names of parts.
pub(super) const CALLS: &str = r#"
[[reader]]
name = "plan"
files = ["*/plan.yml"]
syntax = "yaml"
module = { path = '^(?<module>[^/]+)/' }
[[reader.take]]
what = "service"
each = "$.parts.*"
id = { key = true }
type = { from = "$", match = '^([^(]+)\(' }
[[reader.take.need]]
value = { from = "$", within = '\((.*)\)', split = "," }
[[reader.take]]
what = "service"
each = "$.roles.*"
id = { key = true }
alias-of = "$"
[[reader.take]]
what = "setting"
each = "$.dials.*"
id = { key = true }
value = "$"
[[reader.take]]
what = "entry"
each = "$.doors.*"
id = { key = true }
[[reader.take.need]]
service = { from = "$", split = "," }
[[reader.value]]
match = '^\$(?<setting>[\w.]+)$'
[[reader.value]]
match = '^(?:the )?(?<service>[\w.-]+)$'
"#;

pub(super) fn calls(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut texts = [String::from("parts:\n"), String::from("roles:\n"), String::from("dials:\n")];
        for part in &module.parts {
            let given = part.written(["{}", "the {}", "${}"]).join(", ");
            let _ = writeln!(texts[0], "  {}: {}({given})", part.name, part.type_name);
            if let Some(role) = &part.offers {
                let _ = writeln!(texts[1], "  {role}: {}", part.name);
            }
        }
        for (name, value) in &module.settings {
            let _ = writeln!(texts[2], "  {name}: {value}");
        }
        let door = |(door, uses): &(String, Vec<String>)| format!("  {door}: {}\n", uses.join(", "));
        let doors: String = module.doors.iter().map(door).collect();
        (format!("{}/plan.yml", module.name), format!("{}doors:\n{doors}", texts.concat()))
    };
    network.modules.iter().map(file).collect()
}

/// A folder for each module with a file for each sort, settings in maps, and around them files of other tools.
pub(super) const SHELVES: &str = r#"
[[reader]]
name = "parts"
files = ["shelf/*/parts.yaml"]
syntax = "yaml"
module = { path = '^shelf/(?<module>[^/]+)/' }
[[reader.take]]
what = "service"
each = "$.*"
id = { key = true }
type = "$.class"
offers = "$.role"
[[reader.take.need]]
each = "$.links[*]"
[[reader.value]]
match = '^a (?<contract>\w+)$'
[[reader.value]]
match = '^=(?<setting>.+)$'
[[reader.value]]
match = '^(?<service>[\w.-]+)$'
[[reader]]
name = "values"
files = ["shelf/*/values.yaml"]
syntax = "yaml"
module = { path = '^shelf/(?<module>[^/]+)/' }
[[reader.take]]
what = "setting"
each = "$.values.*.*"
id = { key-path = true, match = '^values\.(.+)$' }
value = "$"
[[reader]]
name = "doors"
files = ["shelf/*/doors.yaml"]
syntax = "yaml"
module = { path = '^shelf/(?<module>[^/]+)/' }
[[reader.take]]
what = "entry"
each = "$.*"
id = { key = true }
[[reader.take.need]]
each = "$[*]"
service = "$"
"#;

pub(super) fn shelves(network: &Network) -> Vec<(String, String)> {
    let mut files = vec![
        ("shelf/readme.yaml".to_owned(), "title: The network\nowners: [night shift, day shift]\n".to_owned()),
        (
            "steps.yaml".to_owned(),
            "stages: [build, test]\nbuild:\n  run: make\ntest:\n  run: make test\n  needs: [build]\n"
                .to_owned(),
        ),
    ];
    for module in &network.modules {
        let mut parts = String::new();
        for part in &module.parts {
            let _ = writeln!(parts, "{}:\n  class: {}", part.name, part.type_name);
            if let Some(contract) = &part.offers {
                let _ = writeln!(parts, "  role: {contract}");
            }
            let _ = writeln!(parts, "  links: [{}]", part.written(["{}", "a {}", "={}"]).join(", "));
        }
        let value = |(name, value): &(String, usize)| {
            format!("    {}: {value}\n", name.split_once('.').map_or("", |(_, name)| name))
        };
        let values: String = module.settings.iter().map(value).collect();
        let door = |(door, uses): &(String, Vec<String>)| format!("{door}: [{}]\n", uses.join(", "));
        let file = |name: &str, text: String| (format!("shelf/{}/{name}.yaml", module.name), text);
        files.push(file("parts", parts));
        files.push(file("values", format!("values:\n  {}:\n{values}", module.name)));
        files.push(file("doors", module.doors.iter().map(door).collect()));
    }
    files
}
