//! Houses that write INI and records.

use super::Network;
use std::fmt::Write;

/// The sections are called after what they define, behind a word; lists have commas.
pub(super) const SECTIONS: &str = r#"
[[reader]]
name = "sections"
files = ["setup/*.ini"]
syntax = "ini"
module = { in-path = '([^/.]+)\.ini$' }
[[reader.take]]
what = "service"
each = "$.*"
id = { key = true, match = "^unit (.+)$" }
type = "$.class"
offers = "$.serves"
[[reader.take.need]]
service = { from = "$.uses", split = "," }
[[reader.take.need]]
contract = { from = "$.asks", split = "," }
[[reader.take.need]]
setting = { from = "$.reads", split = "," }
[[reader.take]]
what = "setting"
each = "$.numbers.*"
id = { key = true }
value = "$"
[[reader.take]]
what = "entry"
each = "$.*"
id = { key = true, match = "^page (.+)$" }
[[reader.take.need]]
service = { from = "$.uses", split = "," }
"#;

pub(super) fn sections(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut text = String::from("[numbers]\n");
        for (name, value) in &module.settings {
            let _ = writeln!(text, "{name} = {value}");
        }
        for part in &module.parts {
            let _ =
                writeln!(text, "\n[unit {}]\nclass = {}\ntext = {}", part.name, part.type_name, part.about);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "serves = {contract}");
            }
            for (field, names) in part.sorted(["uses", "asks", "reads"], "{}") {
                let _ = writeln!(text, "{field} = {names}");
            }
        }
        for (door, uses) in &module.doors {
            let _ = writeln!(text, "\n[page {door}]\nuses = {}", uses.join(", "));
        }
        (format!("setup/{}.ini", module.name), text)
    };
    network.modules.iter().map(file).collect()
}

/// Blocks of fields; a field stands once for each name.
pub(super) const BLOCKS: &str = r##"
[[reader]]
name = "blocks"
files = ["books/*.book"]
syntax = "records"
comment = "#"
module = "$[0].Book"
[[reader.take]]
what = "service"
each = "$[?@.Item]"
id = "$.Item"
type = "$.Made"
offers = "$.Role"
[[reader.take.need]]
each = "$.Takes"
[[reader.take]]
what = "setting"
each = "$[?@.Number]"
id = "$.Number"
value = "$.Is"
[[reader.take]]
what = "entry"
each = "$[?@.Page]"
id = "$.Page"
[[reader.take.need]]
each = "$.Takes"
[[reader.value]]
match = '^number (?<setting>[\w.]+)$'
[[reader.value]]
match = '^role (?<contract>\w+)$'
[[reader.value]]
match = '^item (?<service>[\w.-]+)$'
"##;

pub(super) fn blocks(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut text = format!("# The book of {0}\nBook: {0}\n", module.name);
        for part in &module.parts {
            let _ = writeln!(text, "\nItem: {}\nMade: {}\nText: {}", part.name, part.type_name, part.about);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "Role: {contract}");
            }
            for need in part.written(["item {}", "role {}", "number {}"]) {
                let _ = writeln!(text, "Takes: {need}");
            }
        }
        for (name, value) in &module.settings {
            let _ = writeln!(text, "\nNumber: {name}\nIs: {value}");
        }
        for (door, uses) in &module.doors {
            let _ = writeln!(text, "\nPage: {door}");
            for name in uses {
                let _ = writeln!(text, "Takes: item {name}");
            }
        }
        (format!("books/{}.book", module.name), text)
    };
    network.modules.iter().map(file).collect()
}
