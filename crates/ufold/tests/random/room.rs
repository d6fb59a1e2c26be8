//! Programs and places for steps that make room: loops that do two things, variables that are two.

use super::Dice;

/// A name where it gets a value.
pub fn split_variable(seed: u64, file: &str, text: &str, line: usize) -> Vec<String> {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let is_word = |c: char| c.is_ascii_alphanumeric() || c == '_';
    let mut places: Vec<(usize, usize)> = Vec::new();
    for (n, l) in text.lines().enumerate().skip(line.saturating_sub(8)).filter(|(_, l)| l.starts_with(' ')) {
        for sign in [" = ", " += ", " in ", " of ", ", ", "++", " :="] {
            let ends = l.match_indices(sign).map(|(i, _)| i).filter(|i| l[..*i].ends_with(is_word));
            let begins = ends.map(|i| l[..i].rfind(|c: char| !is_word(c)).map_or(0, |k| k + 1));
            places.extend(begins.filter(|i| !l[..*i].ends_with('.')).map(|i| (n, i)));
        }
    }
    let (n, i) = places.get(dice.roll(places.len().max(1) as u64) as usize).copied().unwrap_or((line, 0));
    vec!["split-variable".into(), format!("{file}:{}:{}", n + 1, i + 1), "fresh".into()]
}

/// A loop, with some lines of its body.
pub fn split_loop(seed: u64, file: &str, text: &str, line: usize) -> Vec<String> {
    let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
    let lines: Vec<&str> = text.lines().collect();
    let indent = |n: usize| lines[n].len() - lines[n].trim_start().len();
    let begins = |n: &usize| lines[*n].trim_start().starts_with("for") && indent(*n) > 0;
    let loops: Vec<usize> = (line.saturating_sub(5)..lines.len()).filter(begins).collect();
    let at = loops.get(dice.roll(loops.len().max(1) as u64) as usize).copied().unwrap_or(line);
    let body: Vec<usize> = (at + 1..lines.len()).take_while(|n| indent(*n) > indent(at)).collect();
    let first = body.first().map_or(0, |n| indent(*n));
    let mut chosen: Vec<String> = Vec::new();
    for (i, n) in body.iter().enumerate().filter(|(_, n)| indent(**n) == first && dice.chance(40)) {
        let inner = body[i + 1..].iter().take_while(|m| indent(**m) > first || lines[**m].trim().starts_with('}'));
        chosen.push(format!("{}-{}", n + 1, n + 1 + inner.count()));
    }
    if chosen.is_empty() {
        chosen.push((at + 2).to_string());
    }
    vec!["split-loop".into(), format!("{file}:{}", at + 1), "--lines".into(), chosen.join(",")]
}

/// A program with a loop over one of these, of two to five of these statements.
fn looping(seed: u64, frame: &str, over: &[&str], body: &[&str]) -> (String, usize) {
    let mut dice = Dice(seed.wrapping_mul(0x2545_f491_4f6c_dd1d) | 1);
    let lines: Vec<String> = (0..2 + dice.roll(4)).map(|_| format!("        {}", dice.pick(body))).collect();
    (frame.replace("OVER", dice.pick(over)).replace("BODY", &lines.join("\n")), 12)
}

pub fn looping_python(seed: u64) -> (String, usize) {
    let frame = r#"log = []


class Ship:
    high, name = 1, " Gull "
    def load(self, n):
        self.high += n
        log.append(n)


def work(rows, ship):
    kept, more, most, last = [], {}, 0, 0
    for turned in OVER:
BODY
    return kept, more, most, last


for rows in ([1, 2, 3], [], [0, 5, 1]):
    ship = Ship()
    try:
        print(work(rows, ship))
    except Exception as e:
        print(type(e).__name__)
    print(rows, ship.high, len(log))
"#;
    let over =
        ["rows", "rows", "[1, 2]", "range(2)", "sorted(rows)", "rows[:2]", "kept", "(ship.high, 2)", "enumerate(rows)"];
    let body = [
        "kept.append(turned)",
        "most += 1",
        "print('turn', turned)",
        "last = turned",
        "more[turned] = most",
        "most = turned * 2",
        "kept.append(most)",
        "log.append(turned)",
        "ship.load(turned)",
        "if turned: kept.append(7)",
        "rows.append(turned) if len(rows) < 9 else 0",
        "more[turned] = len(kept)",
        "if turned == 1: break",
        "more[1] = last",
        "kept.append(1 // turned)",
        "log.append(lambda: turned)",
        "last = ship.high",
        "turned = 4",
        "last += 1",
        "most = 3",
        "kept = [1]",
        "last = str(turned).zfill(2)",
        "kept.append(ship.name.replace('G', str(most)).strip())",
        "most = len(rows[:1]) + most",
        "more[turned] = rows[0:turned]",
        "last = ship.name.lower().startswith('g')",
    ];
    looping(seed, frame, &over, &body)
}

pub fn looping_javascript(seed: u64) -> (String, usize) {
    let frame = r#"const log = [];
class Ship {
  constructor() {
    this.high = 1;
    this.tag = " gull ";
  }
  load(n) {
    this.high += n;
    log.push(n);
  }
}
function work(rows, ship) {
    let kept = [], more = {}, most = 0, last = 0;
    for (OVER) {
BODY
    }
    return [kept, more, most, last];
}
for (const rows of [[1, 2, 3], [], [0, 5, 1]]) {
  const ship = new Ship();
  try {
    console.log(work(rows, ship));
  } catch (e) {
    console.log(e.name);
  }
  console.log(rows, ship.high, log);
}
"#;
    let over = [
        "const turned of rows",
        "const turned of [1, 2]",
        "let turned = 0; turned < 3; turned++",
        "let turned = 0; turned < rows.length; turned++",
        "let turned of kept",
        "let turned of Object.keys(rows)",
    ];
    let body = [
        "kept.push(turned);",
        "most += 1;",
        "console.log('turn', turned);",
        "last = turned;",
        "more[turned] = most;",
        "most = turned * 2;",
        "kept.push(most);",
        "log.push(turned);",
        "ship.load(turned);",
        "if (turned) kept.push(7);",
        "if (rows.length < 9) rows.push(turned);",
        "more[turned] = kept.length;",
        "if (turned === 1) break;",
        "more[1] = last;",
        "const due = turned + 1;",
        "log.push(() => turned);",
        "last = ship.high;",
        "turned = 4;",
        "last += 1;",
        "most = 3;",
        "kept = [1];",
        "last = String(turned).trim().length;",
        "most = rows.indexOf(turned);",
        "kept.push(rows.slice(0, most).length);",
        "more[turned] = ship.tag.toUpperCase().length;",
    ];
    looping(seed, frame, &over, &body)
}

/// What it declares has its type.
pub fn looping_typescript(seed: u64) -> (String, usize) {
    let (text, line) = looping_javascript(seed);
    let types = [
        ("const log = [];", "const log: unknown[] = [];"),
        ("class Ship {", "class Ship { high: number; tag: string;"),
        ("indexOf(turned)", "indexOf(Number(turned))"),
        ("load(n)", "load(n: number): void"),
        ("function work(rows, ship)", "function work(rows: number[], ship: Ship): unknown"),
        ("let kept = [], more = {}", "let kept: number[] = [], more: { [at: string | number]: number } = {}"),
        ("last = turned;", "last = Number(turned);"),
        ("kept.push(turned);", "kept.push(Number(turned));"),
        ("= turned * 2;", "= Number(turned) * 2;"),
        ("load(turned);", "load(Number(turned));"),
        ("rows.push(turned);", "rows.push(Number(turned));"),
        ("const due = turned + 1;", "const due = Number(turned) + 1;"),
        ("of [[1, 2, 3], [], [0, 5, 1]]", "of [[1, 2, 3], [], [0, 5, 1]] as number[][]"),
        ("catch (e)", "catch (e: any)"),
    ];
    let typed = types.iter().fold(text, |t, (from, to)| t.replace(from, to));
    (typed + "export {};\n", line)
}

pub fn looping_java(seed: u64) -> (String, usize) {
    let frame = r#"import java.util.*;

public class Main {
    static List<Object> log = new ArrayList<>();

    static class Ship {
        int high = 1;
        String tag = " Gull ";
        void load(int n) { high += n; log.add(n); }
    }

static String work(List<Integer> rows, int[] marks, Ship ship) {
    List<Integer> kept = new ArrayList<>();
    Map<Integer, Integer> more = new TreeMap<>();
    int most = 0, last = 0;
    for (OVER) {
BODY
    }
    return kept + " " + more + " " + most + " " + last;
}

    public static void main(String[] args) {
        all: for (int[] marks : new int[][] {{1, 2, 3}, {}, {0, 5, 1}}) {
            List<Integer> rows = new ArrayList<>();
            Arrays.stream(marks).forEach(rows::add);
            Ship ship = new Ship();
            try {
                System.out.println(work(rows, marks, ship));
            } catch (RuntimeException e) {
                System.out.println(e.getClass());
            }
            System.out.println(rows + " " + ship.high + " " + log + " " + Arrays.toString(marks));
        }
    }
}
"#;
    let over = [
        "int turned : rows",
        "int turned : marks",
        "int turned = 0; turned < 3; turned++",
        "int turned = 0; turned < rows.size(); turned++",
        "int turned = 0; turned < marks.length; turned++",
        "int turned : new ArrayList<>(rows)",
    ];
    let body = [
        "kept.add(turned);",
        "most += 1;",
        "System.out.println(\"turn \" + turned);",
        "last = turned;",
        "more.put(turned, most);",
        "most = turned * 2;",
        "kept.add(most);",
        "log.add(turned);",
        "ship.load(turned);",
        "if (turned > 0) kept.add(7);",
        "if (rows.size() < 9) rows.add(turned);",
        "more.put(turned, kept.size());",
        "if (turned == 1) break;",
        "more.put(1, last);",
        "int due = turned + 1;",
        "kept.add(6 / turned);",
        "marks[0] = turned;",
        "last = ship.high;",
        "last += 1;",
        "most = 3;",
        "kept = new ArrayList<>();",
        "last = rows.get(0);",
        "most = rows.indexOf(turned);",
        "kept.add(ship.tag.trim().length());",
        "more.put(turned, ship.tag.indexOf('u') + marks[0]);",
        "last = most / turned;",
        "last = marks[turned];",
    ];
    looping(seed, frame, &over, &body)
}
