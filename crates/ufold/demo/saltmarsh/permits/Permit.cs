using System;

namespace Saltmarsh.Permits
{
    /// <summary>What somebody wants to do in the harbour.</summary>
    public class Permit
    {
        public Permit(string holder, string kind, int days, bool night)
        {
            Holder = holder;
            Kind = kind;
            Days = days;
            Night = night;
        }

        public string Holder { get; private set; }
        public string Kind { get; private set; }
        public int Days { get; private set; }
        public bool Night { get; private set; }
    }
}
