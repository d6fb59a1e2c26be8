import java.io.BufferedReader;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.PrintStream;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.net.URL;
import java.net.URLClassLoader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import javax.tools.JavaCompiler;
import javax.tools.StandardJavaFileManager;
import javax.tools.ToolProvider;
import jdk.jshell.JShell;
import jdk.jshell.Snippet;
import jdk.jshell.SnippetEvent;

/**
 * Compiles and runs programs, one after another, in this one process: a line on the input names a folder and the file
 * with `main`; the answer is a line with the status and two lengths, then the output and the errors.
 */
public class Runner {
    private static final PrintStream ANSWERS = System.out;

    public static void main(String[] args) throws Exception {
        BufferedReader in = new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8));
        for (String line = in.readLine(); line != null; line = in.readLine()) {
            String[] asked = line.split("\t");
            answer(Path.of(asked[0]), asked[1]);
        }
    }

    private static void answer(Path folder, String main) throws IOException {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        ByteArrayOutputStream err = new ByteArrayOutputStream();
        int status = 1;
        Path classes = Files.createTempDirectory("classes");
        try {
            status = main.equals("Shell.java") ? typed(folder.resolve(main), out, err)
                : compiled(folder, classes, err) ? run(classes, folder.resolve(main), out, err) : 2;
        } finally {
            delete(classes);
        }
        ANSWERS.println(status + " " + out.size() + " " + err.size());
        ANSWERS.write(out.toByteArray());
        ANSWERS.write(err.toByteArray());
        ANSWERS.flush();
    }

    private static boolean compiled(Path folder, Path classes, ByteArrayOutputStream err) throws IOException {
        JavaCompiler compiler = ToolProvider.getSystemJavaCompiler();
        List<Path> sources = new ArrayList<>();
        try (Stream<Path> all = Files.walk(folder)) {
            all.filter(p -> p.toString().endsWith(".java")).forEach(sources::add);
        }
        StringWriter said = new StringWriter();
        boolean done;
        try (StandardJavaFileManager files = compiler.getStandardFileManager(null, null, StandardCharsets.UTF_8)) {
            List<String> options = List.of("-d", classes.toString(), "-Xlint:none", "-nowarn", "-proc:none");
            done = compiler.getTask(said, files, null, options, null, files.getJavaFileObjectsFromPaths(sources)).call();
        }
        err.write(said.toString().getBytes(StandardCharsets.UTF_8));
        return done;
    }

    private static int run(Path classes, Path main, ByteArrayOutputStream out, ByteArrayOutputStream err)
            throws IOException {
        String name = main.getFileName().toString().replace(".java", "");
        for (String line : Files.readAllLines(main)) {
            if (line.startsWith("package ")) {
                name = line.substring("package ".length(), line.indexOf(';')).trim() + "." + name;
            }
        }
        PrintStream shown = System.out;
        PrintStream warned = System.err;
        System.setOut(new PrintStream(out, true, StandardCharsets.UTF_8));
        System.setErr(new PrintStream(err, true, StandardCharsets.UTF_8));
        try (URLClassLoader loader = new URLClassLoader(new URL[] {classes.toUri().toURL()})) {
            var method = loader.loadClass(name).getDeclaredMethod("main", String[].class);
            method.setAccessible(true);
            method.invoke(null, (Object) new String[0]);
            return 0;
        } catch (ReflectiveOperationException e) {
            Throwable cause = e.getCause() == null ? e : e.getCause();
            cause.printStackTrace(new PrintWriter(System.err, true));
            return 1;
        } finally {
            System.out.flush();
            System.setOut(shown);
            System.setErr(warned);
        }
    }

    /** Statements and methods without a class, as they are typed into the language's shell. */
    private static int typed(Path main, ByteArrayOutputStream out, ByteArrayOutputStream err) throws IOException {
        PrintStream shown = System.out;
        System.setOut(new PrintStream(out, true, StandardCharsets.UTF_8));
        try (JShell shell = JShell.builder().executionEngine("local").build()) {
            var analysis = shell.sourceCodeAnalysis();
            for (String rest = Files.readString(main); !rest.isBlank();) {
                var next = analysis.analyzeCompletion(rest);
                for (SnippetEvent e : shell.eval(next.source() == null ? rest : next.source())) {
                    if (e.status() == Snippet.Status.REJECTED || e.exception() != null) {
                        err.write(("not run: " + e.snippet().source()).getBytes(StandardCharsets.UTF_8));
                        return 1;
                    }
                }
                rest = next.source() == null ? "" : next.remaining();
            }
            return 0;
        } finally {
            System.out.flush();
            System.setOut(shown);
        }
    }

    private static void delete(Path folder) throws IOException {
        try (Stream<Path> all = Files.walk(folder)) {
            all.sorted((a, b) -> b.compareTo(a)).forEach(p -> p.toFile().delete());
        }
    }
}
