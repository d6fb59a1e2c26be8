use super::*;
use crate::lang;
use crate::tree::{Role, Tree};

/// What a region takes and gives, in words; it lies between the comments `# from` and `# to`.
fn region(text: &str) -> String {
    let lang = lang::by_name("python").expect("known");
    let source = Source::new("quay.py", text.into(), lang, None).expect("parses");
    let (tree, names) = (&source.tree, &source.names);
    assert!(tree.errors().is_empty(), "the case does not parse: {text}");
    let function = tree.ids().find(|n| tree.role(*n) == Role::Function).expect("a function");
    let (from, to) = (text.find("# from").expect("a start"), text.find("# to").expect("an end"));
    let inside = |n: &NodeId| {
        let parent = tree.parent(*n).unwrap_or(Tree::ROOT);
        tree.role(parent).is_sequence() && tree.span(*n).start > from && tree.span(*n).end < to
    };
    let first = tree.ids().find(inside).expect("a statement");
    let block = tree.parent(first).expect("a block");
    let last = tree.children(block).filter(inside).last().expect("a statement");
    let r = Flow::of(&source, function, first).region(tree, names, first, last).expect("a region");
    let list = |word: &str, list: &[BindingId]| match list {
        [] => String::new(),
        l => format!(" {word} {}", l.iter().map(|b| names.binding(*b).name.as_str()).collect::<Vec<_>>().join(",")),
    };
    let mut out = String::new();
    out.push_str(&list("in", &r.ins));
    out.push_str(&list("out", &r.outs));
    out.push_str(&list("unbound-before", &r.unbound_before));
    out.push_str(&list("unbound-after", &r.unbound_after));
    out.push_str(&list("handler", &r.seen_by_handler));
    out.push_str(&list("deleted", &r.deleted));
    out.push_str(&list("left", &r.seen_when_left));
    let count = |word: &str, n: usize| if n > 0 { format!(" {word} {n}") } else { String::new() };
    out.push_str(&count("returns", r.exits.returns.len()));
    out.push_str(&count("breaks", r.exits.breaks.len()));
    out.push_str(&count("yields", r.exits.yields.len()));
    out.push_str(&count("awaits", r.exits.awaits.len()));
    out.push_str(if r.falls_through { "" } else { " ends" });
    out.trim().to_string()
}

#[test]
fn what_regions_take_and_give() {
    let cases = [
        ("x = a\n    # from\n    y = x + 1\n    # to\n    return y", "in x out y"),
        ("# from\n    y = a\n    z = y\n    # to\n    return z", "in a out z"),
        ("y = 0\n    # from\n    if a:\n        y = 1\n    # to\n    return y", "in a,y out y"),
        ("# from\n    if a:\n        y = 1\n    # to\n    return y", "in a,y out y unbound-before y"),
        ("# from\n    if a:\n        y = 1\n    else:\n        y = 2\n    # to\n    return y", "in a out y"),
        ("# from\n    for i in a:\n        n = i\n    # to\n    return n", "in a,n out n unbound-before n"),
        (
            "t = 0\n    for i in a:\n        # from\n        t += i\n        u = t\n        # to\n    return 1",
            "in t,i out t",
        ),
        ("# from\n    if a:\n        return 1\n    b()\n    # to\n    return 2", "in a returns 1"),
        // what only runs when all went well has what the way there gave
        (
            "try:\n        x = a()\n    finally:\n        b()\n    # from\n    y = x\n    # to\n    return y",
            "in x out y",
        ),
        ("# from\n    try:\n        x = a()\n    finally:\n        b()\n    # to\n    return x", "in a out x"),
        ("# from\n    try:\n        return a()\n    finally:\n        b()\n    # to", "in a returns 1 ends"),
        // in it, both ways count
        (
            "x = 0\n    try:\n        x = a()\n    finally:\n        # from\n        y = x\n        # to\n        b(y)\n    return y",
            "in x out y",
        ),
        (
            "try:\n        x = a()\n    finally:\n        # from\n        b(x)\n        # to\n    return x",
            "in x unbound-before x",
        ),
        (
            "x = 0\n    try:\n        try:\n            a()\n        finally:\n            # from\n            x = b()\n            c()\n            # to\n    except E:\n        return x\n    return 1",
            "out x handler x",
        ),
        ("# from\n    if a:\n        return 1\n    return 2\n    # to", "in a returns 2 ends"),
        ("# from\n    while True:\n        if a:\n            return 1\n    # to", "in a returns 1 ends"),
        (
            "for i in a:\n        # from\n        if i:\n            break\n        b(i)\n        # to\n    c()",
            "in i breaks 1",
        ),
        (
            "# from\n    for i in a:\n        if i:\n            break\n    else:\n        i = 3\n    # to\n    return i",
            "in a out i",
        ),
        (
            "n = 0\n    try:\n        # from\n        n = 1\n        b()\n        # to\n    except E:\n        c(n)",
            "handler n",
        ),
        ("n = 0\n    try:\n        # from\n        n = b()\n        # to\n    except E:\n        c(n)", ""),
        ("n = 0\n    try:\n        # from\n        n = b()\n        # to\n    finally:\n        c(n)", "out n"),
        ("# from\n    with b() as f:\n        n = f.read()\n    # to\n    return n", "out n"),
        ("# from\n    with suppress(E):\n        n = b()\n    # to\n    return n", "in n out n unbound-before n"),
        ("n = 1\n    # from\n    b(n)\n    del n\n    # to\n    return 1", "in n deleted n"),
        ("n = 1\n    # from\n    n = b()\n    # to\n    del n", "out n"),
        ("# from\n    try:\n        b()\n    except E as e:\n        c(e)\n    # to\n    return 1", ""),
        ("# from\n    m = [x for x in a if (y := x)]\n    # to\n    return y", "in a,y out y unbound-before y"),
        ("# from\n    f = lambda: a\n    f()\n    # to\n    return 1", "in a"),
        ("# from\n    match a:\n        case [p, q]:\n            b(p)\n    # to\n    return 1", "in a"),
        (
            "n = 0\n    for i in a:\n        # from\n        n = i\n        if i:\n            break\n        b(i)\n        # to\n        n = 2\n    return n",
            "in i left n breaks 1",
        ),
        (
            "n = 0\n    for i in a:\n        # from\n        if i:\n            continue\n        n += i\n        # to\n    return n",
            "in n,i out n left n breaks 1",
        ),
        (
            "n = 0\n    try:\n        # from\n        n = 1\n        return 5\n        # to\n    finally:\n        c(n)",
            "left n returns 1 ends",
        ),
        ("# from\n    yield a\n    # to", "in a yields 1"),
        ("# from\n    raise E(a)\n    # to", "in a ends"),
        (
            "while a:\n        try:\n            # from\n            n = b()\n            # to\n        finally:\n            c()\n        d(n)",
            "out n",
        ),
    ];
    let mut wrong = Vec::new();
    for (body, expected) in cases {
        let found = region(&format!("def f(a):\n    {body}\n"));
        if found != expected {
            wrong.push(format!("expected `{expected}`, found `{found}` in\n{body}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
