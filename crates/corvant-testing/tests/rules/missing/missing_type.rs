//! `missing-type`: a service whose type is in none of the jars and distributions that were read.

use corvant_testing::{expect, messages};

const RECORD: &str = "//- lib/voice-1.0.dist-info/RECORD\nvoice/__init__.py,,\nvoice/fast.cpython-313-x86_64-linux-gnu.so,,\nvoice_tools.py,,\nvoice/deep/inner.py,,\n";

#[test]
fn modules_packages_extensions_and_folders_are_there() {
    expect(&format!(
        "//- lib/voice-1.0.dist-info/entry_points.txt\n[g]\na = voice:x\nb = voice.fast:x\nc = voice_tools\nd = voice.deep:x\ne = voice.deep.inner:x.y\nf = voice.depp.inner:x\n    ^^^^^^^^^^^^^^^^ missing-type voice.depp.inner\n{RECORD}"
    ));
}

#[test]
fn one_type_is_one_finding_and_what_was_meant_is_named() {
    let found = messages(&format!(
        "//- lib/voice-1.0.dist-info/entry_points.txt\n[g]\na = voice.depp.inner:x\nb = voice.depp.inner:y\n{RECORD}"
    ));
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(found[0].text.contains("write voice.deep.inner"), "{found:#?}");
    assert!(found[0].text.contains("fails at the first request for g"), "{found:#?}");
}

#[test]
fn without_a_list_nothing_is_said() {
    expect("//- lib/voice-1.0.dist-info/entry_points.txt\n[g]\na = voice.depp:x\n");
}
