//! Pictures in each format, sign by sign.

use corvant_core::answers::picture::{Drawn, Manner, Picture, PictureEdge, Sort, StandsFor};
use corvant_core::answers::terms::{Thing, ThingKind};
use corvant_core::finding::Severity;
use corvant_core::wiring::Wiring;
use corvant_render::documents::graph;
use corvant_render::drawn::{dot, graphml, mermaid, svg, text};
use corvant_render::out::Out;
use corvant_render::text::Layout;
use rstest::rstest;
use std::collections::BTreeSet;
use std::io;

fn node(name: &str, sort: Sort) -> Drawn {
    let thing = Thing { kind: ThingKind::Service, name: name.to_owned(), key: None };
    Drawn {
        stands_for: StandsFor::Thing(thing),
        sort,
        module: None,
        fault: None,
        is_center: false,
        place: None,
    }
}

fn line(from: usize, to: usize, manner: Manner) -> PictureEdge {
    PictureEdge { from, to, manner, slots: vec!["slot".to_owned()], count: 1 }
}

/// One node of each sort, and one edge of each manner from the first node on.
fn everything() -> Picture {
    let nodes = Sort::ALL.into_iter().map(|sort| node(sort.word(), sort)).collect();
    let edges =
        Manner::ALL.into_iter().enumerate().map(|(number, manner)| line(0, number + 1, manner)).collect();
    Picture { nodes, edges, cycle_groups: Vec::new() }
}

fn pair() -> Picture {
    let nodes = vec![node("a", Sort::Service), node("b", Sort::Service), node("c", Sort::Entry)];
    let edges =
        vec![line(0, 1, Manner::Building), line(1, 0, Manner::Building), line(2, 0, Manner::Building)];
    Picture { nodes, edges, cycle_groups: vec![vec![0, 1]] }
}

fn wiring() -> Wiring {
    corvant_testing::wiring([("m.wiring.yaml", "corvant: 1\nmodule: m\n")])
}

fn written(write: impl FnOnce(&mut Out<'_>) -> io::Result<()>) -> String {
    let mut out = Vec::new();
    write(&mut Out::new(&mut out)).expect("a Vec takes all");
    String::from_utf8(out).expect("it is text")
}

fn as_dot(picture: &Picture) -> String {
    written(|out| dot::write(picture, None, out))
}

fn as_mermaid(picture: &Picture) -> String {
    written(|out| mermaid::write(picture, None, out))
}

fn as_svg(picture: &Picture) -> String {
    written(|out| svg::write(picture, None, out))
}

fn as_text(picture: &Picture) -> String {
    written(|out| text::write(picture, None, Layout { width: None, color: false }, out))
}

/// What follows a mark on each line that has it.
fn after<'t>(text: &'t str, mark: &str) -> Vec<&'t str> {
    text.lines().filter_map(|line| line.split_once(mark)).map(|(_, rest)| rest).collect()
}

#[test]
fn every_sort_of_node_has_a_shape_of_its_own() {
    let picture = everything();
    let dot = as_dot(&picture);
    let shapes: BTreeSet<&str> = after(&dot, "\", shape=").into_iter().collect();
    assert_eq!(shapes.len(), Sort::ALL.len(), "{dot}");

    let mermaid = as_mermaid(&picture);
    let shape = |number: usize| {
        let line =
            mermaid.lines().find(|line| line.trim_start().starts_with(&format!("n{number}"))).expect("drawn");
        let word = Sort::ALL[number].word();
        line.trim_start().trim_start_matches(&format!("n{number}")).replace(word, "")
    };
    let shapes: BTreeSet<String> = (0..Sort::ALL.len()).map(shape).collect();
    assert_eq!(shapes.len(), Sort::ALL.len(), "{mermaid}");
}

#[test]
fn every_manner_of_edge_has_a_line_of_its_own() {
    let picture = everything();
    let dot = as_dot(&picture);
    let styles: BTreeSet<&str> = after(&dot, " -> ")
        .into_iter()
        .filter_map(|rest| rest.split_once(" ["))
        .map(|(_, style)| style)
        .collect();
    assert_eq!(styles.len(), Manner::ALL.len(), "{dot}");
    let svg = as_svg(&picture);
    for word in Manner::ALL.map(Manner::word) {
        assert!(svg.contains(&format!("class=\"edge {word}\"")), "{word}");
    }
}

#[test]
fn the_legend_has_what_is_in_the_picture_and_nothing_else() {
    let all = as_svg(&everything());
    for words in ["entry", "provider", "tag, or all offering", "unsettled contract", "missing", "module"] {
        assert!(all.contains(&format!("class=\"legend\">{words}</text>")), "{words}");
    }
    for words in
        ["while building", "after building", "on first use", "may be absent", "one of several", "not met"]
    {
        assert!(all.contains(&format!("class=\"legend\">{words}</text>")), "{words}");
    }
    let few = as_svg(&pair());
    let legend: Vec<&str> = after(&few, "class=\"legend\">");
    assert_eq!(legend, ["entry</text>", "service</text>", "while building</text>"]);
}

#[rstest]
#[case::error(Severity::Error, "peripheries=2", "class n0 error", "badge error", "(error)")]
#[case::warning(Severity::Warning, "penwidth=2", "class n0 warning", "badge warning", "(warning)")]
#[case::note(Severity::Note, "penwidth=2", "", "badge note", "(note)")]
fn a_fault_is_marked_in_each_format(
    #[case] fault: Severity,
    #[case] in_dot: &str,
    #[case] in_mermaid: &str,
    #[case] in_svg: &str,
    #[case] in_text: &str,
) {
    let mut picture = pair();
    for (written, sign) in [
        (as_dot as fn(&Picture) -> String, in_dot),
        (as_mermaid, in_mermaid),
        (as_svg, in_svg),
        (as_text, in_text),
    ] {
        picture.nodes[0].fault = None;
        let count = |text: &str| text.matches(sign).count();
        let before = count(&written(&picture));
        picture.nodes[0].fault = Some(fault);
        if !sign.is_empty() {
            assert!(count(&written(&picture)) > before, "{sign}");
        }
    }
}

#[test]
fn badges_differ_in_shape_and_not_in_colour_alone() {
    let of = |fault| {
        let mut picture = pair();
        picture.nodes[0].fault = Some(fault);
        let svg = as_svg(&picture);
        let badge = svg.lines().find(|line| line.contains("class=\"badge")).expect("a badge");
        badge.split([' ', '>']).next().expect("a tag").to_owned() + &badge.matches(',').count().to_string()
    };
    let shapes: BTreeSet<String> = Severity::ALL.map(of).into_iter().collect();
    assert_eq!(shapes.len(), 3, "{shapes:?}");
}

#[test]
fn a_cycle_group_is_a_cycle_a_cluster_and_a_line() {
    let picture = pair();
    let svg = as_svg(&picture);
    assert!(svg.contains("class=\"ring\"") && svg.contains(">cycle group of 2</text>"));
    assert_eq!(svg.matches("in-ring\"").count(), 2);
    assert!(as_dot(&picture).contains(
        "subgraph cluster_0 { label=\"cycle group of 2\"; style=dashed; color=firebrick; n0; n1; }"
    ));
    let mermaid = as_mermaid(&picture);
    assert!(
        mermaid.contains("subgraph cycle_group0 [\"cycle group of 2\"]\n    n0(\"a\")\n    n1(\"b\")\n  end"),
        "{mermaid}"
    );
    assert!(as_text(&picture).contains("cycle group of 2: a ⇄ b\n"));
    let graphml = written(|out| graphml::write(&picture, out));
    assert_eq!(graphml.matches("<data key=\"cycle_group\">0</data>").count(), 2);
    let json: serde_json::Value =
        serde_json::from_str(&written(|out| graph::write(&picture, &wiring(), out))).expect("JSON");
    assert_eq!(json["cycle_groups"], serde_json::json!([[0, 1]]));
}

#[rstest]
#[case::one(&["a"], 1, "a")]
#[case::three(&["a", "b", "c"], 3, "a, b, c")]
#[case::more(&["a", "b", "c", "d", "e"], 5, "a, b, c, … 2 more")]
#[case::only_counted(&[], 7, "×7")]
#[case::nothing(&[], 1, "")]
fn an_edge_says_its_slots_or_how_many_needs_it_is(
    #[case] slots: &[&str],
    #[case] count: usize,
    #[case] label: &str,
) {
    let mut picture = pair();
    picture.edges[0].slots = slots.iter().map(|&slot| slot.to_owned()).collect();
    picture.edges[0].count = count;
    assert!(as_dot(&picture).contains(&format!("n0 -> n1 [style=solid, label=\"{label}\"];")));
    let expected = if label.is_empty() { "  → b\n".to_owned() } else { format!("  → b  {label}\n") };
    assert!(as_text(&picture).contains(&expected), "{}", as_text(&picture));
}

#[test]
fn a_note_stands_in_every_format_that_people_read() {
    let note = Some("these are modules");
    let picture = pair();
    let layout = Layout { width: None, color: false };
    for text in [
        written(|out| dot::write(&picture, note, out)),
        written(|out| mermaid::write(&picture, note, out)),
        written(|out| svg::write(&picture, note, out)),
        written(|out| svg::write_matrix(&picture, note, out)),
        written(|out| text::write(&picture, note, layout, out)),
    ] {
        assert!(text.contains("these are modules"), "{text}");
    }
}

#[test]
fn long_names_are_cut_and_stand_whole_in_the_title() {
    let name = "traction.substation.of-the-northern-ring-and-its-two-feeders";
    let picture = Picture { nodes: vec![node(name, Sort::Service)], ..Picture::default() };
    let svg = as_svg(&picture);
    assert!(svg.contains(&format!("<title>service {name}</title>")));
    assert!(svg.contains("class=\"name\">traction.substation.of-the-northern-rin…"), "{svg}");
}

#[test]
fn a_matrix_has_a_cell_for_each_pair_frames_groups_and_says_what_breaks_the_order() {
    let svg = written(|out| svg::write_matrix(&pair(), None, out));
    assert_eq!(svg.matches("class=\"cell\"").count(), 3);
    assert_eq!(svg.matches("class=\"frame\"").count(), 1);
    // Of two that need one another one need breaks whatever order they stand in.
    assert_eq!(svg.matches("class=\"breaks\"").count(), 1);
    assert_eq!(svg.matches("class=\"count\">1</text>").count(), 3);
    assert_eq!(svg.matches("class=\"legend row\"").count(), 3);
    assert_eq!(svg.matches("class=\"sum\"").count(), 6);
}

#[test]
fn a_matrix_stands_in_the_order_of_building() {
    let nodes = ["a", "b", "c"].map(|name| node(name, Sort::Module)).to_vec();
    let edges = vec![line(0, 1, Manner::Building), line(1, 2, Manner::Building)];
    let svg =
        written(|out| svg::write_matrix(&Picture { nodes, edges, cycle_groups: Vec::new() }, None, out));
    let rows: Vec<&str> = svg
        .lines()
        .filter(|line| line.contains("legend row"))
        .filter_map(|line| line.split('>').nth(1)?.split('<').next())
        .collect();
    assert_eq!(rows, ["c", "b", "a"]);
    assert_eq!(svg.matches("class=\"breaks\"").count(), 0);
}

#[test]
fn a_large_cycle_group_is_a_matrix_and_a_name_that_is_cut_has_a_title() {
    let long = "x".repeat(60);
    let nodes: Vec<Drawn> =
        (0..14).map(|number| node(&format!("{long}{number:02}"), Sort::Service)).collect();
    let edges: Vec<PictureEdge> =
        (0..14).map(|number| line(number, (number + 1) % 14, Manner::Building)).collect();
    let svg = as_svg(&Picture { nodes, edges, cycle_groups: vec![(0..14).collect()] });
    assert_eq!(svg.matches("need-cell").count(), 1 + 14, "in the style, and once for each need");
    assert_eq!(svg.matches("class=\"breaks need-cell\"").count(), 1);
    assert!(svg.contains("cycle group of 14"));
    assert!(svg.contains(&format!("<title>1 {long}")), "{svg}");
}

#[test]
fn a_matrix_says_what_it_leaves_out() {
    let nodes: Vec<Drawn> = (0..320).map(|number| node(&format!("m{number:03}"), Sort::Module)).collect();
    let edges = vec![line(0, 1, Manner::Building), line(310, 311, Manner::Building)];
    let svg =
        written(|out| svg::write_matrix(&Picture { nodes, edges, cycle_groups: Vec::new() }, None, out));
    assert!(svg.contains("; 20 more are not drawn</text>"));
    assert_eq!(svg.matches("class=\"cell\"").count(), 1);
    // Numbers would not fit into cells so small.
    assert_eq!(svg.matches("class=\"count\"").count(), 0);
}

#[test]
fn nothing_is_a_picture_too() {
    let empty = Picture::default();
    assert!(as_dot(&empty).starts_with("digraph wiring {"));
    assert!(as_mermaid(&empty).starts_with("flowchart LR\n"));
    assert!(as_svg(&empty).ends_with("</svg>\n"));
    assert_eq!(as_text(&empty), "0 nodes, 0 edges\n");
    assert!(written(|out| svg::write_matrix(&empty, None, out)).ends_with("</svg>\n"));
}

#[test]
fn colour_is_only_where_it_is_asked_for() {
    let colored = written(|out| text::write(&pair(), None, Layout { width: None, color: true }, out));
    assert!(colored.contains("\u{1b}[1ma\u{1b}[0m"));
    assert!(!as_text(&pair()).contains('\u{1b}'));
}
