use crate::find::{FileFacts, Finding, Options, facts, scan};
use crate::lang;

/// The same work in four languages, one statement a line but for braces and heads.
const PYTHON: &str = "def dues(ship, rates):
    log.write(ship.name, ship.berth)
    tons = ship.gross - ship.ballast
    fee = tons * rates.of(ship.kind)
    if ship.late:
        fee += rates.penalty(ship.hours)
        notes.append(ship.name)
    for crane in ship.cranes:
        fee += crane.hours * rates.crane
    total = round(fee, rates.digits)
    books.enter(ship.name, total)
    return total
";

const JAVASCRIPT: &str = "function dues(ship, rates) {
  log.write(ship.name, ship.berth);
  const tons = ship.gross - ship.ballast;
  let fee = tons * rates.of(ship.kind);
  if (ship.late) {
    fee += rates.penalty(ship.hours);
    notes.push(ship.name);
  }
  for (const crane of ship.cranes) {
    fee += crane.hours * rates.crane;
  }
  const total = Math.round(fee, rates.digits);
  books.enter(ship.name, total);
  return total;
}
";

const JAVA: &str = "class Dues {
    long dues(Ship ship, Rates rates) {
        log.write(ship.name, ship.berth);
        long tons = ship.gross - ship.ballast;
        long fee = tons * rates.of(ship.kind);
        if (ship.late) {
            fee += rates.penalty(ship.hours);
            notes.add(ship.name);
        }
        for (Crane crane : ship.cranes) {
            fee += crane.hours * rates.crane;
        }
        long total = Math.round(fee);
        books.enter(ship.name, total);
        return total;
    }
}
";

fn found(language: &str, texts: &[&str]) -> Vec<Finding> {
    let lang = lang::by_name(language).unwrap();
    let tree = |t: &str| crate::tree::parse(t, lang).unwrap();
    let files: Vec<FileFacts> =
        texts.iter().enumerate().map(|(i, t)| facts(&format!("f{i}"), t, &tree(t), lang)).collect();
    scan(&files, &Options::default())
}

/// A change of a text: lines that have the first become the second.
fn changed(text: &str, changes: &[(&str, &str)]) -> String {
    changes.iter().fold(text.to_string(), |t, (from, to)| {
        assert!(t.contains(from), "{from} is not in the text");
        t.replace(from, to)
    })
}

#[test]
fn copies_in_which_statements_differ() {
    let python = |changes: &[(&str, &str)]| ("python", PYTHON, changed(PYTHON, changes));
    let script = |changes: &[(&str, &str)]| ("javascript", JAVASCRIPT, changed(JAVASCRIPT, changes));
    let types = |changes: &[(&str, &str)]| ("typescript", JAVASCRIPT, changed(JAVASCRIPT, changes));
    let java = |changes: &[(&str, &str)]| ("java", JAVA, changed(JAVA, changes));
    let line = "    total = round(fee, rates.digits)\n";
    let foreign = "    tide = office.tide()\n    office.call(tide)\n    if tide.high:\n        office.warn(tide)\n";
    let cases = [
        ("one more", python(&[(line, &format!("    fee = max(fee, rates.least)\n{line}"))])),
        ("one less", python(&[("    fee = tons * rates.of(ship.kind)\n", "")])),
        ("one less inside", python(&[("        notes.append(ship.name)\n", "")])),
        (
            "one replaced",
            python(&[("    books.enter(ship.name, total)\n", "    if total:\n        office.send(total)\n")]),
        ),
        ("foreign ones inside", python(&[(line, &format!("{foreign}{line}"))])),
        (
            "two more, renamed",
            python(&[(line, &format!("    a.b(1)\n{line}    c.d(2)\n")), ("ship", "boat"), ("fee", "sum_")]),
        ),
        (
            "one more in a branch",
            script(&[("    notes.push(ship.name);\n", "    notes.push(ship.name);\n    office.warn(ship);\n")]),
        ),
        (
            "a fix in one",
            script(&[("  let fee = tons", "  if (!rates) {\n    throw new Error('no rates');\n  }\n  let fee = tons")]),
        ),
        (
            "assigned",
            script(&[
                ("function dues(ship, rates) {", "exports.other = function (vessel, rates) {"),
                ("ship.", "vessel."),
                ("  const total", "  open();\n  const total"),
            ]),
        ),
        ("with types", types(&[("  books.enter(ship.name, total);\n", "")])),
        (
            "a method",
            java(&[("            notes.add(ship.name);\n", ""), ("long fee", "office.open();\n        long fee")]),
        ),
    ];
    for (what, (language, text, other)) in cases {
        let all = found(language, &[text, &other]);
        // with one statement more it may be a repeat that has a gap
        let whole = |f: &&Finding| f.copies.len() == 2 && f.copies.iter().all(|c| c.lines.1 - c.lines.0 > 9);
        let near: Vec<&Finding> = all.iter().filter(whole).filter(|f| f.drifted || f.similarity < 1.0).collect();
        assert!(!near.is_empty(), "{what}: {all:#?}");
        assert!(near[0].similarity > 0.5, "{what}: {}", near[0].similarity);
    }
}

#[test]
fn a_group_and_not_its_pairs() {
    let less = |gone: &str| changed(PYTHON, &[(gone, "")]);
    let texts =
        [less("    log.write(ship.name, ship.berth)\n"), less("        notes.append(ship.name)\n"), PYTHON.into()];
    let texts: Vec<&str> = texts.iter().map(String::as_str).collect();
    let groups: Vec<usize> = found("python", &texts).iter().filter(|f| f.drifted).map(|f| f.copies.len()).collect();
    assert_eq!(groups, [3]);
}

#[test]
fn code_that_only_looks_alike_is_none() {
    let other = "def tell(berth, crew):
    screen.clear(berth.colour)
    names = crew.first + crew.second
    row = names + crew.rank(berth.side)
    while berth.open:
        row = screen.wrap(berth.width)
    with screen.lock:
        screen.show(row)
    try:
        screen.flush()
    except OSError:
        return None
    return row
";
    assert!(found("python", &[PYTHON, other]).iter().all(|f| !f.near));
}

#[test]
fn nasty_inputs_end_soon() {
    let like =
        |n: usize| (0..n).map(|i| changed(PYTHON, &[("dues", &format!("dues{i}")), ("digits", &format!("d{i}"))]));
    let (many, row) = (like(400).collect::<String>(), "pay(a, 1)\n".repeat(5000));
    assert_eq!(found("python", &[&many]).iter().filter(|f| f.copies.len() == 400).count(), 1);
    assert!(found("python", &[&row]).len() < 3);
}
