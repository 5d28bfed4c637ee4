//! Markdown: what is in it, that it fits, and that nothing a name holds becomes markup.

use crate::support::{folder, run};
use crate::{HOSTILE, demo, findings, written};
use corvant_testing::validators;
use rstest::rstest;
use std::process::Command;
use tempfile::TempDir;

/// Reads a file as CommonMark says, and prints what pieces it sees.
const READ: &str = r#"
import json, sys
from markdown_it import MarkdownIt
pieces = []
def walk(tokens):
    for token in tokens:
        if token.children is None: pieces.append([token.type, token.content])
        else: walk(token.children)
walk(MarkdownIt("commonmark").parse(open(sys.argv[1], encoding="utf-8").read()))
print(json.dumps(pieces))
"#;

fn read(folder: &TempDir) -> Option<Vec<(String, String)>> {
    let validators = validators::folder("Markdown by a parser of CommonMark")?;
    let mut parser = Command::new(validators.join("python/bin/python"));
    let said = validators::accepts(parser.args(["-c", READ]), &folder.path().join("r.md"));
    Some(serde_json::from_str(&said).unwrap())
}

#[test]
fn it_says_what_to_do_and_begins_with_the_worst() {
    let folder = demo();
    let text = written(folder.path(), "velmora", "r.md");
    assert!(
        text.starts_with("## Do not deploy this\n\n**33 errors**, **2 warnings**, **3 notes**"),
        "{text}"
    );
    let all = findings(folder.path(), "velmora");
    for finding in &all {
        let subject = finding["subject"].as_str().unwrap();
        assert!(text.contains(&format!("`{subject}`")), "{subject} is not told");
    }
    assert_eq!(text.matches("\n#### ").count(), 10);
    assert_eq!(text.matches("<details>").count(), text.matches("</details>").count());
    let first = all[0]["subject"].as_str().unwrap();
    assert!(text.find(first) < text.find(all[9]["subject"].as_str().unwrap()));
    let fixed = run(&["demo", "--fixed", "--format", "markdown"], folder.path()).stdout;
    assert!(fixed.starts_with("## Nothing is wrong with the wiring"), "{fixed}");
}

#[test]
fn hostile_names_are_text() {
    let folder = folder(&[("a.wiring.yaml", HOSTILE)]);
    let text = written(folder.path(), ".", "r.md");
    assert!(!text.contains("@crew") || text.contains("`@crew"), "nobody is called by a comment");
    let Some(pieces) = read(&folder) else { return };
    for (kind, content) in &pieces {
        assert!(
            !["link_open", "image", "em_open", "s_open", "html_block"].contains(&kind.as_str())
                || is_own(content),
            "{kind} {content}"
        );
        assert!(kind != "html_inline" || content == "<!-- -->", "{content}");
    }
    let has = |kind: &str, content: &str| pieces.iter().any(|(of, text)| of == kind && text == content);
    assert!(has("code_inline", "<img src=x onerror=alert(2)>"), "{pieces:#?}");
    assert!(has("code_inline", "%s%n ${x} {{y}}"), "{pieces:#?}");
    let plain: String =
        pieces.iter().filter(|(kind, _)| kind == "text").map(|(_, content)| content.as_str()).collect();
    assert!(plain.contains("https://x.example/?a=1&b='\""), "{plain}");
}

/// The folds are the report's own.
fn is_own(html: &str) -> bool {
    html.lines().all(|line| {
        let line = line.trim();
        line.is_empty() || line == "</details>" || line.starts_with("<details><summary>")
    })
}

#[rstest]
#[case::many_findings(4_000, 1)]
#[case::long_names(60, 3_000)]
fn it_fits_whatever_happens(#[case] count: usize, #[case] length: usize) {
    let long = "x".repeat(length);
    let needs: String = (0..count).map(|n| format!("      s{n}: {{ service: web.{long}{n} }}\n")).collect();
    let manifest = |module: &str| {
        format!("corvant: 1\nmodule: {module}\nentries:\n  {module}.map:\n    needs:\n{needs}")
    };
    let folder = folder(&[("a.wiring.yaml", &manifest("web")), ("b.wiring.yaml", &manifest("depot"))]);
    let text = written(folder.path(), ".", "r.md");
    assert!(text.chars().count() <= 60_000, "{}", text.chars().count());
    assert_eq!(text.matches("<details>").count(), text.matches("</details>").count());
    let all = findings(folder.path(), ".").len();
    let shown = text.matches("\n#### ").count() + text.matches("\n- error ").count();
    let left: usize = text
        .lines()
        .find_map(|line| line.strip_suffix(" more do not fit here; the other formats have all of them."))
        .and_then(|line| line.split(' ').next())
        .map_or(0, |number| number.parse().unwrap());
    assert_eq!(shown + left, all, "each is told or counted");
    if let Some(pieces) = read(&folder) {
        assert!(
            pieces.iter().all(|(kind, content): &(String, String)| kind != "html_block" || is_own(content))
        );
    }
}
