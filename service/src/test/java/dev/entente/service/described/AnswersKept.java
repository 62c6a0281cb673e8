package dev.entente.service.described;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.ServletOutputStream;
import jakarta.servlet.WriteListener;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpServletResponseWrapper;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.PrintWriter;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import org.springframework.boot.web.servlet.FilterRegistrationBean;
import org.springframework.context.ApplicationContextInitializer;
import org.springframework.context.support.GenericApplicationContext;
import org.springframework.core.Ordered;
import org.springframework.http.MediaType;
import org.springframework.web.filter.OncePerRequestFilter;
import org.springframework.web.util.ContentCachingRequestWrapper;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * In the tests alone: keeps every call that the service answers, no matter who made it, in the file that the property
 * {@code entente.answers} names. A test compares them with the description. What looks the same as before, but for its values, is
 * kept once.
 */
public final class AnswersKept implements ApplicationContextInitializer<GenericApplicationContext> {
    private static final int LONGEST = 256 * 1024;
    private static final JsonMapper JSON = JsonMapper.shared();

    @Override
    public void initialize(GenericApplicationContext context) {
        var file = context.getEnvironment().getProperty("entente.answers");
        if (file != null) {
            context.registerBean("answersKept", FilterRegistrationBean.class, () -> {
                var registration = new FilterRegistrationBean<>(new Keeper(Path.of(file)));
                registration.setOrder(Ordered.HIGHEST_PRECEDENCE);
                return registration;
            });
        }
    }

    private static final class Keeper extends OncePerRequestFilter {
        private final Path file;
        private final Set<String> seen = ConcurrentHashMap.newKeySet();

        Keeper(Path file) {
            this.file = file;
        }

        @Override
        protected boolean shouldNotFilter(HttpServletRequest request) {
            var path = request.getRequestURI();
            // What Tomcat and the firewall refuse at once is no call of the API.
            return !path.startsWith("/api/v1/")
                    || path.startsWith("/api/v1/steward/")
                    || path.equals("/api/v1/openapi.json")
                    || !path.matches("[^;]+")
                    || path.toLowerCase(Locale.ROOT).matches(".*(/|%2f)(\\.|%2e).*");
        }

        @Override
        protected boolean shouldNotFilterAsyncDispatch() {
            return false;
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            if (isAsyncDispatch(request)) {
                // Those of the first dispatch, wrapped already.
                chain.doFilter(request, response);
                if (!isAsyncStarted(request) && response instanceof Kept kept) {
                    keep(kept);
                }
                return;
            }
            var asked = new ContentCachingRequestWrapper(request, LONGEST);
            var answered = new Kept(asked, response);
            chain.doFilter(asked, answered);
            if (!isAsyncStarted(request)) {
                keep(answered);
            }
        }

        private void keep(Kept answer) throws IOException {
            answer.finish();
            if (answer.left) {
                return;
            }
            var request = answer.request;
            var sent = json(request.getContentType(), request.getContentAsByteArray());
            var said = json(answer.getContentType(), answer.body.toByteArray());
            var line = new LinkedHashMap<String, Object>();
            line.put("method", request.getMethod());
            line.put("path", request.getRequestURI());
            line.put("act", request.getHeader("Entente-Act") != null);
            line.put("status", answer.getStatus());
            line.put("type", Objects.toString(answer.getContentType(), "").replaceFirst(";.*", ""));
            line.put("long", answer.body.size() >= LONGEST);
            line.put("query", new TreeSet<>(request.getParameterMap().keySet()));
            // One path is every path of its kind: what varies in it are ids and names.
            var shape = line + shape(sent) + shape(said);
            if (seen.size() < 200_000
                    && seen.add(
                            shape.replaceAll("[0-9a-f]{8}-[0-9a-f-]{27}", "*").replaceAll("[0-9]+", "0"))) {
                line.put("sent", sent);
                line.put("said", said);
                synchronized (this) {
                    Files.writeString(
                            file,
                            JSON.writeValueAsString(line) + "\n",
                            StandardOpenOption.CREATE,
                            StandardOpenOption.APPEND);
                }
            }
        }

        private static JsonNode json(String type, byte[] body) {
            if (type == null || !MediaType.parseMediaType(type).getSubtype().endsWith("json") || body.length == 0) {
                return null;
            }
            try {
                return JSON.readTree(body);
            } catch (RuntimeException cut) {
                return null;
            }
        }

        /** Names and kinds of values; a value where it is a word that others may have to know. */
        private static String shape(JsonNode node) {
            if (node == null) {
                return "";
            }
            if (node.isArray()) {
                var kinds = new TreeSet<String>();
                node.forEach(one -> kinds.add(shape(one)));
                return kinds.toString();
            }
            if (node.isObject()) {
                var members = new TreeSet<String>();
                node.properties().forEach(member -> members.add(member.getKey() + ":" + shape(member.getValue())));
                return members.toString();
            }
            return node.isString() && node.stringValue().matches("(urn:entente:problem:)?[a-z][a-z-]{0,40}")
                    ? node.stringValue()
                    : node.getNodeType().toString();
        }
    }

    /** Sends on what is written, at once, and remembers its beginning. */
    private static final class Kept extends HttpServletResponseWrapper {
        private final ContentCachingRequestWrapper request;
        private final ByteArrayOutputStream body = new ByteArrayOutputStream();
        private ServletOutputStream stream;
        private PrintWriter writer;
        /** The caller went away before all was written. */
        private boolean left;

        Kept(ContentCachingRequestWrapper request, HttpServletResponse response) {
            super(response);
            this.request = request;
        }

        void finish() {
            if (writer != null) {
                writer.flush();
            }
        }

        @Override
        public void flushBuffer() throws IOException {
            finish();
            super.flushBuffer();
        }

        @Override
        public PrintWriter getWriter() throws IOException {
            if (writer == null) {
                writer = new PrintWriter(new OutputStreamWriter(getOutputStream(), StandardCharsets.UTF_8));
            }
            return writer;
        }

        @Override
        public ServletOutputStream getOutputStream() throws IOException {
            if (stream == null) {
                var to = super.getOutputStream();
                stream = new ServletOutputStream() {
                    @Override
                    public boolean isReady() {
                        return to.isReady();
                    }

                    @Override
                    public void setWriteListener(WriteListener listener) {
                        to.setWriteListener(listener);
                    }

                    @Override
                    public void write(int one) throws IOException {
                        left = true;
                        to.write(one);
                        left = false;
                        if (body.size() < LONGEST) {
                            body.write(one);
                        }
                    }

                    @Override
                    public void write(byte[] bytes, int from, int length) throws IOException {
                        left = true;
                        to.write(bytes, from, length);
                        left = false;
                        body.write(bytes, from, Math.min(length, LONGEST - body.size()));
                    }

                    @Override
                    public void flush() throws IOException {
                        to.flush();
                    }

                    @Override
                    public void close() throws IOException {
                        to.close();
                    }
                };
            }
            return stream;
        }
    }
}
