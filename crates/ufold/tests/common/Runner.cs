using System;
using System.IO;
using System.Linq;
using System.Reflection;
using System.Text;
using System.Threading;

/// <summary>
/// Compiles and runs programs, one after another, in this one process: a line on the input names a folder and the file
/// with `Main`; the answer is a line with the status and two lengths, then the output and the errors.
/// </summary>
static class Runner
{
    /// <summary>Seconds after which a program that a wrong edit keeps from ending is ended.</summary>
    const int Longest = 20;

    static readonly UTF8Encoding Text = new UTF8Encoding(false);
    static MethodInfo compile;

    static void Main()
    {
        var folder = Path.GetDirectoryName(typeof(object).Assembly.Location);
        var compiler = Assembly.LoadFrom(Path.Combine(folder, "mcs.exe"));
        compile = compiler.GetType("Mono.CSharp.CompilerCallableEntryPoint").GetMethod("InvokeCompiler");
        var answers = Console.OpenStandardOutput();
        for (string line = Console.In.ReadLine(); line != null; line = Console.In.ReadLine())
        {
            var said = new StringWriter();
            var warned = new StringWriter();
            int status = Answer(line.Split('\t')[0], said, warned);
            byte[] output = Text.GetBytes(said.ToString()), errors = Text.GetBytes(warned.ToString());
            byte[] head = Text.GetBytes(status + " " + output.Length + " " + errors.Length + "\n");
            foreach (var part in new[] { head, output, errors }) answers.Write(part, 0, part.Length);
            answers.Flush();
        }
    }

    static int Answer(string folder, TextWriter said, TextWriter warned)
    {
        var built = Path.GetTempFileName();
        var sources = Directory.GetFiles(folder, "*.cs", SearchOption.AllDirectories).OrderBy(f => f, StringComparer.Ordinal);
        var options = new[] { "-nowarn:all", "-langversion:latest", "-unsafe", "-out:" + built };
        try
        {
            bool done = (bool)compile.Invoke(null, new object[] { options.Concat(sources).ToArray(), warned });
            return done ? Run(Assembly.Load(File.ReadAllBytes(built)).EntryPoint, said, warned) : 2;
        }
        catch (TargetInvocationException e)
        {
            warned.WriteLine(e.InnerException);
            return 2;
        }
        finally
        {
            File.Delete(built);
        }
    }

    static int Run(MethodInfo main, TextWriter said, TextWriter warned)
    {
        int status = 1;
        TextWriter shown = Console.Out, told = Console.Error;
        Console.SetOut(said);
        Console.SetError(warned);
        var work = new Thread(() =>
        {
            try
            {
                main.Invoke(null, main.GetParameters().Length == 0 ? null : new object[] { new string[0] });
                status = 0;
            }
            catch (TargetInvocationException e)
            {
                warned.WriteLine(e.InnerException);
            }
        });
        work.Start();
        if (!work.Join(Longest * 1000))
        {
            warned.WriteLine("it does not end");
            work.Abort();
        }
        Console.SetOut(shown);
        Console.SetError(told);
        return status;
    }
}
