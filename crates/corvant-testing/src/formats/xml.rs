//! A house that writes XML.

use super::{Need, Network};
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
            for (number, need) in part.needs.iter().enumerate() {
                let _ = match need {
                    Need::Part(name) => writeln!(text, "    <link port=\"p{number}\" target=\"{name}\"/>"),
                    Need::Contract(name) => writeln!(text, "    <any port=\"p{number}\" of=\"{name}\"/>"),
                    Need::Setting(name) => writeln!(text, "    <dial port=\"p{number}\" of=\"{name}\"/>"),
                };
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
