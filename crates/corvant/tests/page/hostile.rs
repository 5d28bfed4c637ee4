//! Names that a page could take for its own.

use crate::Opened;
use crate::support::{folder, run};
use serde_json::json;

const HOSTILE: &str = r#"corvant: 1
module: "<img src=x onerror=hacked=1>"
services:
  "</script><script>hacked=2</script>": { needs: { "javascript:hacked=3": { service: "<svg onload=hacked=4>" } } }
  "__proto__": { needs: { constructor: { service: toString } } }
  "a&b=c#d e%20f": {}
  "\u202egnp.exe": {}
entries:
  "{{constructor}}": { needs: { x: { service: "__proto__" }, y: { service: "a&b=c#d e%20f" } } }
"#;

#[test]
fn hostile_names_stay_text_and_can_be_opened() {
    let folder = folder(&[("</style>.wiring.yaml", HOSTILE)]);
    let Some(mut opened) = Opened::of(folder, ".", "") else { return };
    for address in
        ["#findings", "#list=service", "#modules", "#cycles", "#findings&finding=1", "#list=module"]
    {
        opened.browser.go(address);
    }
    for name in ["</script><script>hacked=2</script>", "__proto__", "a&b=c#d e%20f"] {
        opened.browser.value(&format!("location.hash = 'service=' + encodeURIComponent({})", json!(name)));
        opened.browser.settle();
        assert_eq!(opened.heading(), format!("service {name}"));
    }
    assert_eq!(opened.elements("img, iframe, object, #view script"), 0);
    assert_eq!(opened.browser.value("typeof hacked"), json!("undefined"));
    let text = std::fs::read_to_string(opened.folder.path().join("report.html")).unwrap();
    assert!(!text.contains("hacked"), "all of it travels packed");
    opened.assert_quiet();
}

#[test]
fn an_address_that_means_nothing_shows_the_overview() {
    let Some(mut opened) = Opened::demo("#%E0%A4%A&x=%") else { return };
    assert!(opened.shown().starts_with("Do not deploy this"), "{}", opened.shown());
    opened.browser.go("#findings&finding=99999");
    assert!(opened.shown().contains("Choose a finding"), "{}", opened.shown());
    opened.browser.go("#findings&rule=no-such-rule");
    assert_eq!(opened.left(), 0);
    opened.assert_quiet();
}

#[test]
fn the_same_workspace_makes_the_same_page() {
    let folder = folder(&[]);
    run(&["demo", "--write", "velmora"], folder.path());
    let page = |threads: &str| {
        let outcome = run(&["report", "velmora", "-o", "r.html", "--threads", threads], folder.path());
        assert_eq!((outcome.status, outcome.stderr.as_str()), (0, "wrote r.html; open it in a browser\n"));
        std::fs::read(folder.path().join("r.html")).unwrap()
    };
    assert!(page("1") == page("4"));
}
