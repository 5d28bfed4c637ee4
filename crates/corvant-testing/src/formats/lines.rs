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

/// Keys say what a thing is, and what is said of it.
pub(super) const FLAT: &str = r#"
[[reader]]
name = "wiring"
files = ["wiring/*.properties"]
syntax = "properties"
module = { in-path = '([^/.]+)\.properties$' }
[[reader.take]]
what = "service"
each = "$.*"
only-keys = '^part\.'
skip-keys = '\.(?:needs|wants|reads|role)$'
id = { key = true, match = '^part\.(.+)$' }
type = "$"
[[reader.take]]
what = "service"
each = "$.*"
only-keys = '\.role$'
id = { key = true, match = '^part\.(.+)\.role$' }
merge = true
offers = "$"
[[reader.take]]
what = "service"
each = "$.*"
only-keys = '\.needs$'
id = { key = true, match = '^part\.(.+)\.needs$' }
merge = true
[[reader.take.need]]
service = { from = "$", split = "," }
[[reader.take]]
what = "service"
each = "$.*"
only-keys = '\.wants$'
id = { key = true, match = '^part\.(.+)\.wants$' }
merge = true
[[reader.take.need]]
contract = { from = "$", split = "," }
[[reader.take]]
what = "service"
each = "$.*"
only-keys = '\.reads$'
id = { key = true, match = '^part\.(.+)\.reads$' }
merge = true
[[reader.take.need]]
setting = { from = "$", split = "," }
[[reader.take]]
what = "setting"
each = "$.*"
only-keys = '^value\.'
id = { key = true, match = '^value\.(.+)$' }
value = "$"
[[reader.take]]
what = "entry"
each = "$.*"
only-keys = '^door\.'
id = { key = true, match = '^door\.(.+)$' }
[[reader.take.need]]
service = { from = "$", split = "," }
"#;

pub(super) fn flat(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut text = String::new();
        for part in &module.parts {
            let _ = writeln!(text, "part.{} = {}", part.name, part.type_name);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "part.{}.role = {contract}", part.name);
            }
            for (word, names) in part.sorted(["needs", "wants", "reads"], "{}") {
                let _ = writeln!(text, "part.{}.{word} = {names}", part.name);
            }
        }
        for (name, value) in &module.settings {
            let _ = writeln!(text, "value.{name} = {value}");
        }
        for (door, uses) in &module.doors {
            let _ = writeln!(text, "door.{door} = {}", uses.join(", "));
        }
        (format!("wiring/{}.properties", module.name), text)
    };
    network.modules.iter().map(file).collect()
}

/// A section for each thing that is said, with the same keys in all of them.
pub(super) const TABLES: &str = r#"
[[reader]]
name = "tables"
files = ["*.ini"]
syntax = "ini"
module = { in-path = '([^/.]+)\.ini$' }
[[reader.take]]
what = "service"
each = "$.types.*"
id = { key = true }
type = "$"
[[reader.take]]
what = "service"
each = "$.roles.*"
id = { key = true }
merge = true
offers = "$"
[[reader.take]]
what = "service"
each = "$.needs.*"
id = { key = true }
merge = true
[[reader.take.need]]
service = { from = "$", split = " " }
[[reader.take]]
what = "service"
each = "$.wants.*"
id = { key = true }
merge = true
[[reader.take.need]]
contract = { from = "$", split = " " }
[[reader.take]]
what = "service"
each = "$.reads.*"
id = { key = true }
merge = true
[[reader.take.need]]
setting = { from = "$", split = " " }
[[reader.take]]
what = "setting"
each = "$.values.*"
id = { key = true }
value = "$"
[[reader.take]]
what = "entry"
each = "$.doors.*"
id = { key = true }
[[reader.take.need]]
service = { from = "$", split = " " }
"#;

pub(super) fn tables(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut sections = ["types", "roles", "needs", "wants", "reads", "values", "doors"]
            .map(|name| (name, format!("[{name}]\n")));
        let mut add = |section: &str, name: &str, value: &str| {
            let of = sections.iter_mut().filter(|(known, _)| *known == section);
            of.for_each(|(_, text)| _ = writeln!(text, "{name} = {value}"));
        };
        for part in &module.parts {
            add("types", &part.name, &part.type_name);
            part.offers.iter().for_each(|role| add("roles", &part.name, role));
            for (section, names) in part.sorted(["needs", "wants", "reads"], "{}") {
                add(section, &part.name, &names.replace(", ", " "));
            }
        }
        module.settings.iter().for_each(|(name, value)| add("values", name, &value.to_string()));
        module.doors.iter().for_each(|(door, uses)| add("doors", door, &uses.join(" ")));
        (format!("{}.ini", module.name), sections.map(|(_, text)| text).join("\n"))
    };
    network.modules.iter().map(file).collect()
}

/// Lines, each of which says one thing.
pub(super) const SAYS: &str = r##"
[[reader]]
name = "says"
files = ["*/*.says"]
syntax = "lines"
comment = "#"
module = { path = '^(?<module>[^/]+)/' }
[[reader.take]]
what = "service"
each = "$[*]"
merge = true
only-where = { from = "$", match = '^part ' }
id = { from = "$", match = '^part (\S+)' }
type = { from = "$", match = ' made of (\S+)' }
[[reader.take]]
what = "service"
each = "$[*]"
merge = true
only-where = { from = "$", match = '^role ' }
id = { from = "$", match = '^role (\S+)' }
offers = { from = "$", match = ' (\S+)$' }
[[reader.take]]
what = "service"
each = "$[*]"
merge = true
only-where = { from = "$", match = '^needs ' }
id = { from = "$", match = '^needs (\S+)' }
[[reader.take.need]]
service = { from = "$", match = ' part (\S+)$' }
[[reader.take.need]]
contract = { from = "$", match = ' role (\S+)$' }
[[reader.take.need]]
setting = { from = "$", match = ' number (\S+)$' }
[[reader.take]]
what = "setting"
each = "$[*]"
only-where = { from = "$", match = '^number ' }
id = { from = "$", match = '^number (\S+)' }
value = { from = "$", match = ' (\S+)$' }
[[reader.take]]
what = "entry"
each = "$[*]"
only-where = { from = "$", match = '^page ' }
id = { from = "$", match = '^page (\S+)' }
[[reader.take.need]]
service = { from = "$", within = ' opens (.+)$', split = "," }
"##;

pub(super) fn says(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut text = format!("# What {} says.\n", module.name);
        for part in &module.parts {
            let _ = writeln!(text, "part {} made of {}", part.name, part.type_name);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "role {} {contract}", part.name);
            }
            for need in part.written(["part {}", "role {}", "number {}"]) {
                let _ = writeln!(text, "needs {} {need}", part.name);
            }
        }
        for (name, value) in &module.settings {
            let _ = writeln!(text, "number {name} {value}");
        }
        for (door, uses) in &module.doors {
            let _ = writeln!(text, "page {door} opens {}", uses.join(", "));
        }
        (format!("{}/all.says", module.name), text)
    };
    network.modules.iter().map(file).collect()
}
