using System;
using System.Collections.Generic;

namespace Saltmarsh.Permits
{
    /// <summary>The tests of the permit desk.</summary>
    internal static class PermitTests
    {
        private static int failed;

        private static void Same(string what, object expected, object found)
        {
            bool ok = expected.Equals(found);
            failed += ok ? 0 : 1;
            Console.WriteLine(ok ? what + " ok" : what + ": " + found + " instead of " + expected);
        }

        private static int Main()
        {
            var desk = new PermitDesk();
            var diver = new Permit("Hale", "diving", 2, false);
            var welder = new Permit("Quill", "welding", 3, true);
            Same("diving", 90, desk.Diving(diver));
            Same("diving by night", 135, desk.Diving(new Permit("Hale", "diving", 2, true)));
            Same("welding by night", 247, desk.Welding(welder));
            Same("summary", "3 of 5 days", PermitDesk.Summary(new List<Permit> { diver, welder }));
            Same("book", "Permits\n  D101 Hale 90\n  D102 Hale 135\n  W103 Quill 247\n", desk.Page());
            try
            {
                desk.Welding(new Permit("Quill", "welding", 0, false));
                Same("no days", "refused", "taken");
            }
            catch (ArgumentException)
            {
                Same("no days", "refused", "refused");
            }
            return failed;
        }
    }
}
