using System;
using System.Collections.Generic;
using System.Text;

namespace Saltmarsh.Permits
{
    /// <summary>Works out what permits cost, and writes the desk's book.</summary>
    public class PermitDesk
    {
        private readonly List<string> book = new List<string>();
        private int number = 100;

        /// <summary>Divers work by the day; nights cost half as much again.</summary>
        public int Diving(Permit permit)
        {
            if (permit.Days < 1)
            {
                throw new ArgumentException("a permit is for one day at least");
            }
            int fee = 40 + permit.Days * 25;
            if (permit.Night)
            {
                fee = fee * 3 / 2;
            }
            number++;
            book.Add("D" + number + " " + permit.Holder + " " + fee);
            return fee;
        }

        /// <summary>Welders work by the day; nights cost half as much again.</summary>
        public int Welding(Permit permit)
        {
            if (permit.Days < 1)
            {
                throw new ArgumentException("a permit is for one day at least");
            }
            int fee = 60 + permit.Days * 35;
            if (permit.Night)
            {
                fee = fee * 3 / 2;
            }
            number++;
            book.Add("W" + number + " " + permit.Holder + " " + fee);
            return fee;
        }

        /// <summary>The longest of the permits, and all of their days.</summary>
        public static string Summary(IList<Permit> permits)
        {
            int longest = 0;
            int days = 0;
            foreach (Permit permit in permits)
            {
                if (permit.Days > longest)
                {
                    longest = permit.Days;
                }
                days += permit.Days;
            }
            return longest + " of " + days + " days";
        }

        /// <summary>The book as a page.</summary>
        public string Page()
        {
            var page = new StringBuilder("Permits\n");
            foreach (string line in book)
            {
                page.Append("  ").Append(line).Append('\n');
            }
            return page.ToString();
        }
    }
}
