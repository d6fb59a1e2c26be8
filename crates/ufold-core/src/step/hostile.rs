//! Plans that nobody sane would send: any range, any name, any kind of step. Nothing may panic; what is not refused must
//! have passed the audit, so all that is asked here is an answer.

use proptest::prelude::*;

use super::*;
use crate::change::Place;
use crate::index::Project;
use crate::memory::Texts;
use crate::plan::{Form, Wishes};
use crate::step::plan;

/// Text with characters of several bytes, so that a range may cut one.
const FILES: [(&str, &str); 3] = [
    (
        "port.py",
        "import math\n\n\nclass Hafen:\n    def gebühr(self, zeilen):\n        summe = 0\n        for z in zeilen:\n            \
         summe += math.floor(z) * 3  # für „alle“\n        print('größe', summe, f'{summe:>5}')\n        return summe\n\n    \
         def miete(self, zeilen):\n        summe = 0\n        for z in zeilen:\n            summe += math.floor(z) * 4\n        \
         print('länge', summe, f'{summe:>5}')\n        return summe\n",
    ),
    (
        "kai.js",
        "export function kai(x) {\r\n  const é = x.map((y) => y * 2);\r\n  if (é.length > 3) { return 'ß'; }\r\n  \
         console.log(`é ${é}`, x?.y);\r\n  return é;\r\n}\r\nexport const b = (x) => {\r\n  const é = x.map((y) => y * 5);\r\n  \
         if (é.length > 3) { return 'ü'; }\r\n  console.log(`é ${é}`, x?.y);\r\n  return é;\r\n};\r\n",
    ),
    (
        "broken.ts",
        "interface A { x: number\nfunction f<T>(a: T): T { let q = [a, ; return a\n}}\nlet ü = <T>(x: T) => x;\n",
    ),
];

fn place() -> impl Strategy<Value = Place> {
    let file = prop_oneof![3 => (0..FILES.len()).prop_map(|i| FILES[i].0.to_string()), 1 => "[a-z./]{0,12}"];
    (file, 0usize..700, 0usize..700, 0usize..40, 0usize..40).prop_map(|(file, a, b, c, d)| Place {
        file,
        start_byte: a,
        end_byte: b,
        start_line: c,
        end_line: d,
    })
}

/// One request of each kind.
fn requests() -> impl Strategy<Value = [Request; 5]> {
    let name = prop::option::of(prop_oneof!["[a-z_é]{0,8}", Just("class".to_string()), any::<String>()]);
    let form = prop::option::of(prop_oneof![Just(Form::Function), Just(Form::Method), Just(Form::Nested)]);
    let flags = (any::<bool>(), any::<bool>(), any::<bool>(), 0usize..9);
    let function = (name, form, flags).prop_map(|(name, form, (whole, flags, derive, most_parameters))| {
        (whole, Wishes { name, form, flags, derive, most_parameters, ..Wishes::default() })
    });
    let places = (prop::collection::vec(place(), 0..4), place(), prop::collection::vec(0usize..5, 0..3));
    (places, function).prop_map(|((copies, place, except), (whole, function))| {
        let finding = String::new();
        let name = function.name.clone().unwrap_or_default();
        let (all_equal, copied) = (whole, copies.clone());
        let extract =
            ExtractRequest { copies: copied, except: except.clone(), function: function.clone(), ..Default::default() };
        [
            Request::Fold(FoldRequest { copies, except: except.clone(), function, whole, ..FoldRequest::default() }),
            Request::Extract(extract),
            Request::Rename(RenameRequest { finding: finding.clone(), place: place.clone(), name: name.clone() }),
            Request::Param(ParamRequest { finding: finding.clone(), place: place.clone(), name, all_equal }),
            Request::Inline(InlineRequest { finding, place, except, slide: false }),
        ]
    })
}

proptest! {
    #![proptest_config(crate::outcome::tests::inputs())]

    #[test]
    fn any_request_gets_an_answer(requests in requests(), step in 0usize..5) {
        let texts = Texts(&FILES);
        let facts = texts.facts();
        let project = Project::new(&facts, &texts);
        let planned = plan(&project, &requests[step]);
        let text = serde_json::to_string(&planned).expect("a plan is plain data");
        prop_assert_eq!(serde_json::from_str::<Plan>(&text).expect("what was written is read"), planned);
    }
}
