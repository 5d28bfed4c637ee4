//! `missing-service`: an id that is not defined.

use corvant_testing::{expect, messages};
use rstest::rstest;

#[test]
fn many_needs_on_one_missing_service_are_one_finding() {
    expect(
        r#"
//- web.wiring.yaml
corvant: 1
module: web
services:
  web.map: { type: velmora.web.Map, needs: { tiles: { service: web.tiles } } }
                                                               ^^^^^^^^^ missing-service web.tiles
  web.plan: { type: velmora.web.Plan, needs: { tiles: { service: web.tiles, lazy: true } } }
entries:
  map: { needs: { map: { service: web.map }, plan: { service: web.plan }, tiles: { service: web.tiles } } }
"#,
    );
}

#[test]
fn optional_supplied_and_looped_needs_are_silent() {
    expect(
        r#"
//- web.wiring.yaml
corvant: 1
module: web
supplied: { services: [host.log] }
services:
  web.log: { alias-of: host.log }
entries:
  map:
    needs:
      log: { service: host.log }
      other: { service: web.log }
      none: { service: web.none, optional: true }
"#,
    );
}

#[test]
fn aliases_wrappers_replacements_models_and_collectors_need_their_targets() {
    expect(
        r#"
//- web.wiring.yaml
corvant: 1
module: web
tags:
  layer: { collected-by: web.painter }
                         ^^^^^^^^^^^ missing-service web.painter
services:
  web.map: { alias-of: web.old-map }
                       ^^^^^^^^^^^ missing-service web.old-map
  web.layer: { type: velmora.web.Layer, tags: [layer] }
  web.cached: { type: velmora.web.Cached, wraps: web.gone }
                                                 ^^^^^^^^ missing-service web.gone
  web.tiles: { type: velmora.web.Tiles, replaces: host.tiles }
                                                  ^^^^^^^^^^ missing-service host.tiles
  web.plan: { type: velmora.web.Plan, like: web.common }
                                            ^^^^^^^^^^ missing-service web.common
entries:
  map: { needs: { a: { service: web.cached }, b: { service: web.tiles }, c: { service: web.plan }, d: { service: web.map } } }
"#,
    );
}

#[rstest]
#[case::meant("{ service: web.tlies }", "write web.tiles (a.wiring.yaml:4)")]
#[case::supplied("{ service: host.lgo }", "write host.log (supplied by the host platform)")]
#[case::template("{ service: web.common }", "web.common (a.wiring.yaml:5) is a template")]
#[case::stage("{ service: web.drill }", "web.drill (a.wiring.yaml:6) is limited to stage drill")]
#[case::all_stages_but(
    "{ service: web.day }",
    "web.day (a.wiring.yaml:7) is in all stages but night, drill: define it here too"
)]
#[case::nothing_like_it(
    "{ service: depot.gate }",
    "define depot.gate, or list it under `supplied: services`"
)]
fn help_says_what_to_do(#[case] need: &str, #[case] help: &str) {
    let text = format!(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  web.tiles: {{}}\n  web.common: {{ template: true }}\n  web.drill: {{ stages: [drill] }}\n  web.day: {{ except: [night, drill] }}\nsupplied: {{ services: [host.log] }}\nentries:\n  map: {{ needs: {{ x: {need} }} }}\n"
    );
    let found = messages(&text);
    assert!(
        found.iter().any(|found| found.rule == "missing-service" && found.text.contains(help)),
        "{found:#?}"
    );
}

#[test]
fn a_misspelt_model_may_be_meant_to_be_a_template() {
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.board: { template: true }\n  a.stop: { like: a.bord }\nentries: { e: { needs: { x: { service: a.stop } } } }\n",
    );
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(found[0].text.contains("write a.board (a.wiring.yaml:4)"), "{found:#?}");
    // A service cannot be handed out as a template.
    let found = messages(
        "//- a.wiring.yaml\ncorvant: 1\nmodule: a\nservices:\n  a.board: { template: true }\nentries: { e: { needs: { x: { service: a.bord } } } }\n",
    );
    assert!(!found[0].text.contains("a.board"), "{found:#?}");
}
