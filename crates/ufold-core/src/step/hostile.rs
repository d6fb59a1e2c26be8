//! Plans that nobody sane would send: any range, any name, any kind of step. Nothing may panic; what is not refused must
//! have passed the audit, so all that is asked here is an answer.

use proptest::prelude::*;

use crate::change::{Form, Place, Request};
use crate::index::Project;
use crate::memory::Texts;
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

fn request() -> impl Strategy<Value = Request> {
    let name = prop::option::of(prop_oneof!["[a-z_é]{0,8}", Just("class".to_string()), any::<String>()]);
    let form = prop::option::of(prop_oneof![Just(Form::Function), Just(Form::Method), Just(Form::Nested)]);
    let flags = (any::<bool>(), any::<bool>(), any::<bool>(), 0usize..9);
    (prop::collection::vec(place(), 0..4), name, form, flags, prop::collection::vec(0usize..5, 0..3)).prop_map(
        |(copies, name, form, (whole, flags, derive, most), except)| Request {
            copies,
            name,
            form,
            whole,
            flags,
            derive,
            except,
            most_parameters: most,
            ..Request::default()
        },
    )
}

proptest! {
    #![proptest_config(crate::outcome::tests::inputs())]

    #[test]
    fn any_request_gets_an_answer(request in request(), step in 0usize..5) {
        let texts = Texts(&FILES);
        let facts = texts.facts();
        let project = Project::new(&facts, &texts);
        let kind = ["fold", "extract", "rename", "param", "inline"][step];
        let planned = plan(&project, kind, &request).expect("a known kind");
        let text = serde_json::to_string(&planned).expect("a plan is plain data");
        prop_assert_eq!(serde_json::from_str::<crate::change::Plan>(&text).expect("what was written is read"), planned);
    }
}
