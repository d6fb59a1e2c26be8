//! A map of a code base: a rectangle for each file, as large as the file, inside that of its folder.
//!
//! Laid out so that rectangles are near to squares (Bruls, Huizing, van Wijk: Squarified Treemaps, 2000). What would be
//! too small to be seen is one rectangle for all such files of a folder.

use std::collections::BTreeMap;

/// A rectangle, in the unit of the whole's width and height.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rect {
    pub x: f64,
    pub y: f64,
    pub w: f64,
    pub h: f64,
}

impl Rect {
    fn area(&self) -> f64 {
        self.w * self.h
    }

    /// Without a margin and a strip at its top.
    fn inner(&self, margin: f64, top: f64) -> Rect {
        let (w, h) = ((self.w - 2.0 * margin).max(0.0), (self.h - margin - top).max(0.0));
        Rect { x: self.x + margin, y: self.y + top, w, h }
    }
}

/// What a rectangle stands for.
#[derive(Clone, Debug, PartialEq)]
pub enum Area {
    /// A file, by its number.
    File(usize),
    /// Files of a folder that are too small.
    Rest(Vec<usize>),
    /// A folder, with the name that stands over its rectangles where there is room for one.
    Folder { path: String, name: Option<String> },
}

/// Height of the strip with a folder's name.
const STRIP: f64 = 18.0;

/// A folder is drawn with its name where it is as wide and high as this.
const ROOM: (f64, f64) = (70.0, 44.0);

/// A smaller rectangle is not seen.
const SMALLEST: f64 = 14.0;

enum Node {
    File(usize),
    Folder(Folder),
}

#[derive(Default)]
struct Folder {
    size: f64,
    entries: BTreeMap<String, Node>,
}

impl Folder {
    fn put(&mut self, path: &str, file: usize, size: f64) {
        self.size += size;
        match path.split_once('/') {
            None => drop(self.entries.insert(path.to_string(), Node::File(file))),
            Some((folder, rest)) => {
                // a file of that name can't be there
                let node = self.entries.entry(folder.to_string()).or_insert_with(|| Node::Folder(Folder::default()));
                if let Node::Folder(f) = node {
                    f.put(rest, file, size);
                }
            }
        }
    }

    fn files(&self) -> Vec<usize> {
        let files = |n: &Node| match n {
            Node::File(i) => vec![*i],
            Node::Folder(f) => f.files(),
        };
        self.entries.values().flat_map(files).collect()
    }
}

/// The rectangles of files with a path and a size, folders before what is in them.
pub fn map(files: &[(&str, u32)], whole: Rect) -> Vec<(Area, Rect)> {
    let mut root = Folder::default();
    for (i, (path, size)) in files.iter().enumerate() {
        root.put(path, i, f64::from((*size).max(1)));
    }
    let sizes: Vec<f64> = files.iter().map(|f| f64::from(f.1.max(1))).collect();
    let mut out = Vec::new();
    lay(&root, "", whole, &sizes, &mut out);
    out
}

fn lay(folder: &Folder, path: &str, within: Rect, sizes: &[f64], out: &mut Vec<(Area, Rect)>) {
    if folder.entries.is_empty() || within.area() <= 0.0 {
        return;
    }
    let scale = within.area() / folder.size;
    let size = |n: &Node| match n {
        Node::File(i) => sizes[*i],
        Node::Folder(f) => f.size,
    };
    let mut parts: Vec<(f64, &str, &Node)> = Vec::new();
    let (mut rest, mut rest_size) = (Vec::new(), 0.0);
    for (name, n) in &folder.entries {
        if size(n) * scale < SMALLEST {
            rest_size += size(n);
            match n {
                Node::File(i) => rest.push(*i),
                Node::Folder(f) => rest.extend(f.files()),
            }
        } else {
            parts.push((size(n), name, n));
        }
    }
    parts.sort_by(|a, b| b.0.total_cmp(&a.0).then(a.1.cmp(b.1)));
    let mut areas: Vec<f64> = parts.iter().map(|p| p.0 * scale).collect();
    if !rest.is_empty() {
        areas.push(rest_size * scale);
    }
    let rects = squarified(&areas, within);
    for ((_, name, node), rect) in parts.iter().zip(&rects) {
        match node {
            Node::File(i) => out.push((Area::File(*i), *rect)),
            Node::Folder(f) => {
                let mut own = name.to_string();
                // folders that hold nothing but one are one with it
                let mut f = f;
                while let (1, Some((name, Node::Folder(only)))) = (f.entries.len(), f.entries.first_key_value()) {
                    own = format!("{own}/{name}");
                    f = only;
                }
                let has_room = rect.w >= ROOM.0 && rect.h >= ROOM.1;
                let inner = rect.inner(1.0, if has_room { STRIP } else { 1.0 });
                let full = if path.is_empty() { own.clone() } else { format!("{path}/{own}") };
                out.push((Area::Folder { path: full.clone(), name: has_room.then_some(own) }, *rect));
                lay(f, &full, inner, sizes, out);
            }
        }
    }
    if !rest.is_empty() {
        out.push((Area::Rest(rest), rects[rects.len() - 1]));
    }
}

/// Rectangles of these areas, in their order, that fill the whole; areas come the largest first, but for the last.
fn squarified(areas: &[f64], whole: Rect) -> Vec<Rect> {
    let (mut out, mut left, mut at) = (Vec::with_capacity(areas.len()), whole, 0);
    while at < areas.len() {
        let side = left.w.min(left.h).max(f64::MIN_POSITIVE);
        let worst = |row: &[f64]| {
            let sum: f64 = row.iter().sum();
            let longest = |a: &f64| (side * side * a / (sum * sum)).max(sum * sum / (side * side * a));
            row.iter().map(longest).fold(0.0, f64::max)
        };
        let mut n = 1;
        while at + n < areas.len() && worst(&areas[at..at + n + 1]) <= worst(&areas[at..at + n]) {
            n += 1;
        }
        let row = &areas[at..at + n];
        let sum: f64 = row.iter().sum();
        let thick = sum / side;
        let mut along = 0.0;
        for a in row {
            let long = a / thick;
            out.push(match left.w >= left.h {
                true => Rect { x: left.x, y: left.y + along, w: thick, h: long },
                false => Rect { x: left.x + along, y: left.y, w: long, h: thick },
            });
            along += long;
        }
        left = match left.w >= left.h {
            true => Rect { x: left.x + thick, w: (left.w - thick).max(0.0), ..left },
            false => Rect { y: left.y + thick, h: (left.h - thick).max(0.0), ..left },
        };
        at += n;
    }
    out
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    const WHOLE: Rect = Rect { x: 0.0, y: 0.0, w: 1000.0, h: 560.0 };

    fn overlap(a: &Rect, b: &Rect) -> f64 {
        let side = |a0: f64, a1: f64, b0: f64, b1: f64| (a1.min(b1) - a0.max(b0)).max(0.0);
        side(a.x, a.x + a.w, b.x, b.x + b.w) * side(a.y, a.y + a.h, b.y, b.y + b.h)
    }

    proptest! {
        #[test]
        fn areas_fill_the_whole_and_keep_apart(mut sizes in proptest::collection::vec(1u32..4000, 1..60)) {
            sizes.sort_unstable_by(|a, b| b.cmp(a));
            let sum: f64 = sizes.iter().map(|s| f64::from(*s)).sum();
            let areas: Vec<f64> = sizes.iter().map(|s| f64::from(*s) * WHOLE.area() / sum).collect();
            let rects = squarified(&areas, WHOLE);
            for (r, a) in rects.iter().zip(&areas) {
                prop_assert!((r.area() - a).abs() < 1e-3 * a);
                prop_assert!((overlap(r, &WHOLE) - r.area()).abs() < 1e-2);
            }
            for (i, a) in rects.iter().enumerate() {
                for b in &rects[i + 1..] {
                    prop_assert!(overlap(a, b) < 1e-2);
                }
            }
        }
    }

    #[test]
    fn every_file_is_drawn_once_and_in_its_folder() {
        let of_folders = |files: &[(&str, u32)]| -> Vec<String> {
            let path = |a: &(Area, Rect)| match &a.0 {
                Area::Folder { path, .. } => Some(path.clone()),
                _ => None,
            };
            map(files, WHOLE).iter().filter_map(path).collect()
        };
        assert_eq!(of_folders(&[("a/b/c/x.py", 9), ("a/b/c/y.py", 9), ("z.py", 9)]), ["a/b/c"]);
        let names: Vec<(String, u32)> = (0..400)
            .map(|i| {
                (format!("{}f{i}.py", ["", "tides/", "tides/high/", "docks/a/b/"][i % 4]), 1 + (i as u32 * 37) % 900)
            })
            .chain([("huge.py".to_string(), 900_000)])
            .collect();
        let files: Vec<(&str, u32)> = names.iter().map(|f| (f.0.as_str(), f.1)).collect();
        let all = map(&files, WHOLE);
        let mut seen: Vec<usize> = Vec::new();
        for (area, rect) in &all {
            assert!(rect.w >= 0.0 && (overlap(rect, &WHOLE) - rect.area()).abs() < 1e-6, "{area:?} {rect:?}");
            match area {
                Area::File(i) => seen.push(*i),
                Area::Rest(list) => seen.extend(list),
                Area::Folder { .. } => {}
            }
        }
        seen.sort_unstable();
        assert_eq!(seen, (0..401).collect::<Vec<_>>());
        assert!(map(&[], WHOLE).is_empty());
    }
}
