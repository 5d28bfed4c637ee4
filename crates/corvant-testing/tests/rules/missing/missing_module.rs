//! `missing-module`: a module that is used and that no manifest belongs to, or a distribution or module of a platform

use corvant_testing::{expect, messages};

#[test]
fn a_module_is_there_if_any_file_speaks_for_it() {
    expect(
        r#"
//- a.wiring.yaml
corvant: 1
module: a
uses: [b, c, c]
          ^ missing-module a > c
//- b.wiring.yaml
corvant: 1
module: b
uses: [gone]
       ^^^^ missing-module b > gone
services: { b.x: {} }
//- b2.wiring.yaml
corvant: 1
module: b
uses: [gone]
//- c2.wiring.yaml
corvant: 1
module: a
entries:
  e: { needs: { x: { service: b.x } } }
"#,
    );
}

#[test]
fn what_is_required_is_looked_for_in_its_own_installation() {
    expect(
        "
//- one/lib/python3.11/site-packages/velmora_voice-1.dist-info/METADATA
Requires-Dist: velmora-tones
Requires-Dist: velmora-lines
//- one/lib/python3.11/site-packages/velmora_board-1.dist-info/METADATA
Requires-Dist: Velmora.Tones
               ^^^^^^^^^^^^^ missing-module velmora-tones in one/lib/python3.11/site-packages
//- one/lib64/python3.11/site-packages/velmora_lines-1.dist-info/METADATA
Name: velmora-lines
//- one/lib/python3.11/site-packages/velmora_all/inside/velmora_tones-1.dist-info/METADATA
Requires-Dist: velmora-voice
//- two/lib/python3.11/site-packages/velmora_tones-1.dist-info/METADATA
Requires-Dist: velmora-voice
               ^^^^^^^^^^^^^ missing-module velmora-voice in two/lib/python3.11/site-packages
",
    );
}

#[test]
fn one_finding_names_all_that_require_it() {
    let require =
        |name: &str| format!("//- lib/velmora_{name}-1.dist-info/METADATA\nRequires-Dist: velmora-tones\n");
    let found = messages(&["one", "two", "three", "four", "five"].map(require).concat());
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(
            found[0].text.contains(
                "velmora-five, velmora-four, velmora-one and 2 more require velmora-tones, which is not installed in lib"
            ),
            "{found:#?}"
        );
    assert!(found[0].text.contains("install velmora-tones"), "{found:#?}");
}

#[test]
fn what_the_workspace_disables_is_said() {
    let found = messages(
        "
//- corvant.toml
[workspace]
disabled = [\"velmora-tones\"]
//- lib/velmora_voice-1.dist-info/METADATA
Requires-Dist: velmora-tones
//- lib/velmora_tones-1.dist-info/METADATA
Name: velmora-tones
",
    );
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(found[0].text.contains("the workspace disables it"), "{found:#?}");
}
