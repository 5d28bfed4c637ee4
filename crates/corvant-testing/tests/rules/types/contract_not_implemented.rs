//! `contract-not-implemented`: a service offers a contract that its type is not of.

use corvant_testing::{expect, messages};
use rstest::rstest;

fn workspace(file: &str, code: &str, type_name: &str, offers: &str) -> String {
    format!(
        "//- corvant.toml\n[[types]]\nfiles = [\"src/*\"]\n//- src/{file}\n{code}\n//- a.wiring.yaml\ncorvant: 1\nmodule: a\n\
         services: {{ gate: {{ type: '{type_name}', offers: ['{offers}'] }} }}\n\
         entries: {{ open: {{ needs: {{ gate: {{ contract: '{offers}' }} }} }} }}\n"
    )
}

/// What is not known for sure is not told.
#[rstest]
#[case::not("A.java", "package v; interface Lit {} class Gate {}", "v.Gate", "v.Lit", true)]
#[case::itself(
    "A.java",
    "package v; interface Lit {} class Gate implements Lit {}",
    "v.Gate",
    "v.Lit",
    false
)]
#[case::over_others(
    "A.java",
    "package v; interface Lit {} interface On extends Lit {} class Lamp implements On {} class Gate extends Lamp {}",
    "v.Gate",
    "v.Lit",
    false
)]
#[case::its_own_type("A.java", "package v; class Gate {}", "v.Gate", "v.Gate", false)]
#[case::with_arguments(
    "A.java",
    "package v; interface Lit<T> {} class Gate implements Lit<String> {}",
    "v.Gate",
    "v.Lit<String>",
    false
)]
#[case::a_name_of_the_house("A.java", "package v; class Gate {}", "v.Gate", "Lit", false)]
#[case::a_super_type_elsewhere(
    "A.java",
    "package v; interface Lit {} class Gate extends far.Door {}",
    "v.Gate",
    "v.Lit",
    false
)]
#[case::in_parts(
    "A.cs",
    "namespace V; interface Lit {} partial class Gate {} partial class Gate : Lit {}",
    "V.Gate",
    "V.Lit",
    false
)]
#[case::parts_that_are_generated(
    "A.cs",
    "namespace V; interface Lit {} partial class Gate {}",
    "V.Gate",
    "V.Lit",
    false
)]
#[case::by_members("a.ts", "export interface Lit {} export class Gate {}", "src/a#Gate", "src/a#Lit", false)]
#[case::by_members_too(
    "a.py",
    "from typing import Protocol\nclass Lit(Protocol): pass\nclass Gate: pass",
    "a.Gate",
    "a.Lit",
    false
)]
#[case::not_in_python("a.py", "class Lit: pass\nclass Gate: pass", "a.Gate", "a.Lit", true)]
#[case::a_trait(
    "a.php",
    "<?php namespace V; trait Lit {} class Gate { use Lit; }",
    "V\\Gate",
    "V\\Lit",
    false
)]
#[case::otherwise_written(
    "a.php",
    "<?php namespace V; interface Lit {} class Gate {}",
    "\\V\\Gate",
    "V.Lit",
    true
)]
#[case::computed_bases("a.py", "class Lit: pass\nclass Gate(make()): pass", "a.Gate", "a.Lit", false)]
fn a_type_is_of_what_it_says(
    #[case] file: &str,
    #[case] code: &str,
    #[case] type_name: &str,
    #[case] offers: &str,
    #[case] expected: bool,
) {
    let found = messages(&workspace(file, code, type_name, offers));
    assert_eq!(found.iter().any(|found| found.rule == "contract-not-implemented"), expected, "{found:#?}");
    assert!(found.len() <= 1, "{found:#?}");
}

#[test]
fn what_was_meant_is_the_namesake_that_it_is_of() {
    let found = messages(&workspace(
        "A.java",
        "package v; interface Lit {} class On { interface Lit {} } class Gate implements On.Lit {}",
        "v.Gate",
        "v.Lit",
    ));
    assert!(found[0].text.contains("write v.On.Lit, which v.Gate implements"), "{found:#?}");
}

#[test]
fn places_are_what_is_offered_and_the_type() {
    expect(
        r#"
//- corvant.toml
[[types]]
files = ["src/**"]
//- depot.wiring.yaml
corvant: 1
module: depot
services:
  gate: { type: v.Gate, offers: [v.Lit, v.Heated] }
                                 ^^^^^ contract-not-implemented gate
entries: { open: { needs: { lit: { contract: v.Lit }, heated: { contract: v.Heated } } } }
//- src/Gate.java
package v;
class Gate {} interface Lit {} interface Heated {}
"#,
    );
}
