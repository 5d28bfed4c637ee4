//! Cycle groups, each drawn by the engine that draws the pictures of `corvant graph`.

use super::strings::Strings;
use crate::drawn::layout::{LARGEST_RING, Page, cut_out};
use crate::drawn::order::within;
use crate::drawn::{LETTERS, label, name, shortened};
use corvant_core::answers::View;
use corvant_core::answers::picture::{Frame, Picture, picture};
use corvant_core::audit::Report;
use serde::Serialize;
use std::cmp::Reverse;

/// Groups that are drawn, the largest first.
const DRAWN: usize = 200;
/// Members of a group that are drawn as a matrix at most.
const MOST: usize = 300;

/// All cycle groups.
#[derive(Serialize)]
pub(super) struct Cycles {
    groups: Vec<Group>,
    /// How many there are besides.
    more: usize,
}

/// A group with its picture.
#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct Group {
    /// Members in the order of rows and columns.
    names: Vec<u32>,
    /// By member what it is: a word.
    sorts: Vec<&'static str>,
    modules: Vec<u32>,
    /// Who needs whom, by number of the member: holder, needed, how, slots.
    needs: Vec<(usize, usize, &'static str, u32)>,
    /// Where members and edges stand; absent: the group is shown as a matrix.
    #[serde(skip_serializing_if = "Option::is_none")]
    drawn: Option<Drawn>,
}

#[derive(Serialize)]
struct Drawn {
    width: f64,
    height: f64,
    /// By member: x, y, width, height.
    boxes: Vec<[f64; 4]>,
    /// By member as it is written there.
    labels: Vec<String>,
    /// By need, as SVG writes a path.
    paths: Vec<String>,
}

impl Cycles {
    pub(super) fn new(view: &View<'_>, report: &Report, strings: &mut Strings) -> Self {
        let whole = picture(view, &Frame { only_cycle_groups: true, ..Frame::default() }, report);
        let mut groups: Vec<&Vec<usize>> = whole.cycle_groups.iter().collect();
        groups.sort_by_key(|group| Reverse(group.len()));
        let more = groups.len().saturating_sub(DRAWN);
        let group = |members: &Vec<usize>| Group::new(&cut_out(&whole, members), strings);
        Self { groups: groups.into_iter().take(DRAWN).map(group).collect(), more }
    }
}

impl Group {
    fn new(picture: &Picture, strings: &mut Strings) -> Self {
        let all: Vec<usize> = (0..picture.nodes.len()).collect();
        let is_ring = all.len() <= LARGEST_RING;
        let order = if is_ring { all } else { within(picture, &all) };
        let order = &order[..order.len().min(MOST)];
        let mut row_of = vec![None; picture.nodes.len()];
        for (row, &node) in order.iter().enumerate() {
            row_of[node] = Some(row);
        }
        let needs = picture.edges.iter().filter_map(|line| {
            let slots = strings.number(&label(line));
            Some((row_of[line.from]?, row_of[line.to]?, line.manner.word(), slots))
        });
        let needs = needs.collect();
        let nodes = order.iter().map(|&node| &picture.nodes[node]);
        Self {
            names: nodes.clone().map(|node| strings.number(&name(node))).collect(),
            sorts: nodes.clone().map(|node| node.sort.word()).collect(),
            modules: nodes.map(|node| strings.number(node.module.as_deref().unwrap_or_default())).collect(),
            needs,
            drawn: is_ring.then(|| Drawn::new(picture)),
        }
    }
}

impl Drawn {
    /// A group is one connected part: its picture is that part's.
    fn new(picture: &Picture) -> Self {
        let page = Page::new(picture);
        let rounded = |number: f64| (number * 10.0).round() / 10.0;
        let mut drawn = Self {
            width: rounded(page.size.x),
            height: rounded(page.size.y),
            boxes: Vec::new(),
            labels: picture.nodes.iter().map(|node| shortened(&name(node), LETTERS).into_owned()).collect(),
            paths: Vec::new(),
        };
        for part in &page.parts {
            let shift = part.shift();
            let place = |of: &crate::drawn::layout::Rectangle| {
                [of.at.x + shift.x, of.at.y + shift.y, of.size.x, of.size.y].map(rounded)
            };
            drawn.boxes.extend(part.layout.boxes.iter().map(place));
            drawn.paths.extend(part.layout.strokes.iter().map(|stroke| stroke.line.moved(shift)));
        }
        drawn
    }
}
