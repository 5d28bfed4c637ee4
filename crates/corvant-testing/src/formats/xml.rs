//! Houses that write XML.

use super::Network;
use std::fmt::Write;

/// Names do without their module where they stand, and have it where they are linked to.
pub(super) const DEVICES: &str = r#"
[[reader]]
name = "devices"
files = ["panels/*.panel.xml"]
syntax = "xml"
module = "$.panel['@area']"
[[reader.take]]
what = "service"
each = "$.panel.device[*]"
id = { from = "$['@code']", form = "{module}.{}" }
type = "$['@model']"
offers = "$.acts[*]['@as']"
[[reader.take.need]]
each = "$.link[*]"
service = "$['@target']"
slot = "$['@port']"
[[reader.take.need]]
each = "$.any[*]"
contract = "$['@of']"
slot = "$['@port']"
[[reader.take.need]]
each = "$.dial[*]"
setting = "$['@of']"
slot = "$['@port']"
[[reader.take]]
what = "setting"
each = "$.panel.scale[*]"
id = "$['@name']"
value = "$['#text']"
[[reader.take]]
what = "entry"
each = "$.panel.button[*]"
id = "$['@label']"
[[reader.take.need]]
each = "$.press[*]"
service = "$['@target']"
"#;

pub(super) fn devices(network: &Network) -> Vec<(String, String)> {
    let file = |module: &super::Module| {
        let mut text = format!("<panel area=\"{}\">\n", module.name);
        for (name, value) in &module.settings {
            let _ = writeln!(text, "  <scale name=\"{name}\">{value}</scale>");
        }
        for part in &module.parts {
            let code = part.name.split_once('.').map_or("", |(_, code)| code);
            let _ = writeln!(text, "  <device code=\"{code}\" model=\"{}\">", part.type_name);
            let _ = writeln!(text, "    <note>{}</note>", part.about);
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "    <acts as=\"{contract}\"/>");
            }
            let how =
                ["link port=\"p#\" target=\"{}\"", "any port=\"p#\" of=\"{}\"", "dial port=\"p#\" of=\"{}\""];
            for (number, need) in part.written(how).into_iter().enumerate() {
                let _ = writeln!(text, "    <{}/>", need.replace('#', &number.to_string()));
            }
            text.push_str("  </device>\n");
        }
        for (door, uses) in &module.doors {
            let presses: String = uses.iter().map(|name| format!("<press target=\"{name}\"/>")).collect();
            let _ = writeln!(text, "  <button label=\"{door}\">{presses}</button>");
        }
        text.push_str("</panel>\n");
        (format!("panels/{}.panel.xml", module.name), text)
    };
    network.modules.iter().map(file).collect()
}

/// One file for the whole city, areas inside of it.
pub(super) const CITY: &str = r#"
[[reader]]
name = "city"
files = ["city.xml"]
syntax = "xml"
module = "city"
[[reader.take]]
what = "service"
each = "$.city.area[*].part[*]"
id = "$['@id']"
type = "$['@class']"
offers = "$.is[*]['@role']"
[[reader.take.need]]
each = "$.needs[*].ref[*]"
service = "$['@id']"
[[reader.take.need]]
each = "$.needs[*].any[*]"
contract = "$['@role']"
[[reader.take.need]]
each = "$.needs[*].val[*]"
setting = "$['@id']"
[[reader.take]]
what = "setting"
each = "$.city.area[*].number[*]"
id = "$['@id']"
value = "$['@value']"
[[reader.take]]
what = "entry"
each = "$.city.area[*].gate[*]"
id = "$['@id']"
[[reader.take.need]]
each = "$.ref[*]"
service = "$['@id']"
"#;

pub(super) fn city(network: &Network) -> Vec<(String, String)> {
    let mut text = String::from("<city>\n");
    for module in &network.modules {
        let _ = writeln!(text, "<area name=\"{}\">", module.name);
        for (name, value) in &module.settings {
            let _ = writeln!(text, "  <number id=\"{name}\" value=\"{value}\"/>");
        }
        for part in &module.parts {
            let _ = writeln!(
                text,
                "  <part id=\"{}\" class=\"{}\" text=\"{}\">",
                part.name, part.type_name, part.about
            );
            if let Some(contract) = &part.offers {
                let _ = writeln!(text, "    <is role=\"{contract}\"/>");
            }
            text.push_str("    <needs>");
            let how = ["<ref id=\"{}\"/>", "<any role=\"{}\"/>", "<val id=\"{}\"/>"];
            text.push_str(&part.written(how).concat());
            text.push_str("</needs>\n  </part>\n");
        }
        for (door, uses) in &module.doors {
            let uses: String = uses.iter().map(|name| format!("<ref id=\"{name}\"/>")).collect();
            let _ = writeln!(text, "  <gate id=\"{door}\">{uses}</gate>");
        }
        text.push_str("</area>\n");
    }
    text.push_str("</city>\n");
    vec![("city.xml".to_owned(), text)]
}
