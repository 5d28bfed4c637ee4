//! `missing-import`: a file that another names and that is not there.

use corvant_testing::{expect, messages};

const READER: &str = "
//- corvant.toml
[[reader]]
name = \"lines\"
files = [\"**/*.yaml\"]
syntax = \"yaml\"
module = \"lines\"
may-be-empty = true
[[reader.take]]
what = \"import\"
each = \"$.with[*]\"
path = \"$\"
//- more/stops.yaml
about: x
";

#[test]
fn paths_lead_from_the_file_or_from_the_root() {
    expect(&format!(
        "{READER}
//- lines/all.yaml
with:
  - one.yaml
  - ../more/stops.yaml
  - /more/stops.yaml
  - ./one.yaml
  - stops.yaml
    ^^^^^^^^^^ missing-import stops.yaml
  - /lines/stops.yaml
    ^^^^^^^^^^^^^^^^^ missing-import /lines/stops.yaml
  - '*.yaml'
  - ../../outside.yaml
//- lines/one.yaml
about: x
"
    ));
}

#[test]
fn what_was_meant_is_named() {
    let found = messages(&format!("{READER}\n//- more/all.yaml\nwith: [stop.yaml]\n"));
    assert!(found[0].text.contains("write stops.yaml"), "{found:#?}");
}
