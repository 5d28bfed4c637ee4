//! Houses that write TOML.

use super::Network;
use std::fmt::Write;

/// A table for each unit; fields say what their names are.
pub(super) const UNITS: &str = r#"
[[reader]]
name = "units"
files = ["plans/*.toml"]
syntax = "toml"
module = "$.plan"
[[reader.take]]
what = "service"
each = "$.unit.*"
id = { key = true }
type = "$.class"
offers = "$['stands-for']"
[[reader.take.need]]
each = "$.after[*]"
service = "$"
[[reader.take.need]]
each = "$.asks[*]"
contract = "$"
[[reader.take.need]]
each = "$.reads[*]"
setting = "$"
[[reader.take]]
what = "setting"
each = "$.number.*"
id = { key = true }
value = "$"
[[reader.take]]
what = "entry"
each = "$.call.*"
id = { key = true }
[[reader.take.need]]
each = "$['goes-to'][*]"
service = "$"
"#;

pub(super) fn units(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut text = format!("plan = \"{}\"\n\n[number]\n", module.name);
        for (name, value) in &module.settings {
            let _ = writeln!(text, "\"{name}\" = {value}");
        }
        for part in &module.parts {
            let _ = writeln!(
                text,
                "\n[unit.\"{}\"]\nclass = \"{}\"\nabout = \"{}\"",
                part.name, part.type_name, part.about
            );
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "stands-for = \"{contract}\"");
            }
            for (field, names) in part.sorted(["after", "asks", "reads"], "\"{}\"") {
                let _ = writeln!(text, "{field} = [{names}]");
            }
        }
        for (door, uses) in &module.doors {
            let uses: Vec<String> = uses.iter().map(|name| format!("\"{name}\"")).collect();
            let _ = writeln!(text, "\n[call.{door}]\ngoes-to = [{}]", uses.join(", "));
        }
        (format!("plans/{}.toml", module.name), text)
    };
    network.modules.iter().map(file).collect()
}

/// Tables in lists; what is linked to says what it is before a colon.
pub(super) const LINKS: &str = r#"
[[reader]]
name = "links"
files = ["net/*.net.toml"]
syntax = "toml"
module = { in-path = '([^/.]+)\.net\.toml$' }
[[reader.take]]
what = "service"
each = "$.item[*]"
id = "$.id"
type = "$.made"
offers = "$.role"
[[reader.take.need]]
each = "$.links[*]"
[[reader.take]]
what = "setting"
each = "$.dial[*]"
id = "$.id"
value = "$.at"
[[reader.take]]
what = "entry"
each = "$.desk[*]"
id = "$.id"
[[reader.take.need]]
each = "$.links[*]"
[[reader.value]]
match = '^item:(?<service>[\w.-]+)$'
[[reader.value]]
match = '^dial:(?<setting>[\w.]+)$'
[[reader.value]]
match = '^role:(?<contract>\w+)$'
"#;

pub(super) fn links(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut text = String::new();
        for part in &module.parts {
            let links = part.written(["\"item:{}\"", "\"role:{}\"", "\"dial:{}\""]);
            let _ = writeln!(
                text,
                "[[item]]\nid = \"{}\"\nmade = \"{}\"\nsays = \"{}\"\nlinks = [{}]",
                part.name,
                part.type_name,
                part.about,
                links.join(", ")
            );
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "role = \"{contract}\"");
            }
            text.push('\n');
        }
        dials_and_desks(&mut text, module, "links", "\"item:{}\"");
        (format!("net/{}.net.toml", module.name), text)
    };
    network.modules.iter().map(file).collect()
}

/// Who there is in one list, and who needs what in another.
pub(super) const EDGES: &str = r#"
[[reader]]
name = "edges"
files = ["graph/*.toml"]
syntax = "toml"
module = "$.area"
[[reader.take]]
what = "service"
each = "$.node[*]"
id = "$.id"
type = "$.code"
offers = "$.role"
[[reader.take]]
what = "service"
each = "$.edge[*]"
merge = true
id = "$.from"
[[reader.take.need]]
service = "$.part"
[[reader.take.need]]
contract = "$.role"
[[reader.take.need]]
setting = "$.dial"
[[reader.take]]
what = "setting"
each = "$.dial[*]"
id = "$.id"
value = "$.at"
[[reader.take]]
what = "entry"
each = "$.desk[*]"
id = "$.id"
[[reader.take.need]]
each = "$.opens[*]"
service = "$"
"#;

pub(super) fn edges(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut text = format!("area = \"{}\"\n", module.name);
        for part in &module.parts {
            let _ = writeln!(text, "\n[[node]]\nid = \"{}\"\ncode = \"{}\"", part.name, part.type_name);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "role = \"{contract}\"");
            }
        }
        for part in &module.parts {
            for need in part.written(["part = \"{}\"", "role = \"{}\"", "dial = \"{}\""]) {
                let _ = writeln!(text, "\n[[edge]]\nfrom = \"{}\"\n{need}", part.name);
            }
        }
        dials_and_desks(&mut text, module, "opens", "\"{}\"");
        (format!("graph/{}.toml", module.name), text)
    };
    network.modules.iter().map(file).collect()
}

/// Settings and entries as tables in lists; what an entry uses stands in a field, written in a way.
fn dials_and_desks(text: &mut String, module: &super::Module, field: &str, how: &str) {
    for (name, value) in &module.settings {
        let _ = writeln!(text, "[[dial]]\nid = \"{name}\"\nat = {value}\n");
    }
    for (door, uses) in &module.doors {
        let uses: Vec<String> = uses.iter().map(|name| how.replace("{}", name)).collect();
        let _ = writeln!(text, "[[desk]]\nid = \"{door}\"\n{field} = [{}]\n", uses.join(", "));
    }
}
