package dev.entente.service.outlet;

import dev.entente.core.audit.OutletKind;
import dev.entente.service.platform.Problem;
import dev.entente.wire.OutletApi;
import dev.entente.wire.RecordApi.Event;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Pattern;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/**
 * A file in the operator's folder, an event a line. It is opened by its name for each lot and is on the disk before the cursor moves; who
 * rotates it renames it. A lot that was cut off by a crash is written again behind what is there of it.
 */
@Component
class FileReceiver implements Receiver {
    private static final Pattern NAME = Pattern.compile("[A-Za-z0-9][A-Za-z0-9._-]{0,99}");

    private final AllowedReceivers allowed;
    private final JsonMapper json;

    FileReceiver(AllowedReceivers allowed, JsonMapper json) {
        this.allowed = allowed;
        this.json = json;
    }

    @Override
    public OutletKind kind() {
        return OutletKind.FILE;
    }

    @Override
    public void check(OutletApi.NewOutlet wanted) {
        if (wanted.to() == null || !NAME.matcher(wanted.to()).matches()) {
            throw Problem.of("outlet-address/file");
        }
        if (allowed.files().isEmpty()) {
            throw Problem.of("outlet-not-allowed/file");
        }
    }

    @Override
    public void send(Outlet outlet, List<Event> events) throws NotTaken {
        var lines = new ByteArrayOutputStream();
        events.forEach(event -> line(lines, event));
        append(outlet, lines.toByteArray());
    }

    @Override
    public void test(Outlet outlet) throws NotTaken {
        var line = new ByteArrayOutputStream();
        line(line, Map.of("outlet", outlet.name(), "test", true));
        append(outlet, line.toByteArray());
    }

    private void line(ByteArrayOutputStream lines, Object what) {
        lines.writeBytes(json.writeValueAsBytes(what));
        lines.write('\n');
    }

    private void append(Outlet outlet, byte[] lines) throws NotTaken {
        var folder = allowed.files()
                .orElseThrow(() -> NotTaken.now("the operator doesn't let outlets write files any more"));
        try (var file = open(folder.resolve(outlet.goesTo()))) {
            var bytes = ByteBuffer.wrap(cutOff(file) ? behind(lines) : lines);
            while (bytes.hasRemaining()) {
                file.write(bytes, file.size());
            }
            file.force(true);
        } catch (IOException e) {
            throw NotTaken.now("the file can't be written (" + e.getClass().getSimpleName() + ")");
        }
    }

    private static FileChannel open(Path file) throws IOException {
        return FileChannel.open(
                file,
                Set.of(
                        StandardOpenOption.CREATE,
                        StandardOpenOption.READ,
                        StandardOpenOption.WRITE,
                        LinkOption.NOFOLLOW_LINKS),
                PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-r-----")));
    }

    private static boolean cutOff(FileChannel file) throws IOException {
        var last = ByteBuffer.allocate(1);
        return file.size() > 0 && file.read(last, file.size() - 1) == 1 && last.get(0) != '\n';
    }

    private static byte[] behind(byte[] lines) {
        var more = new byte[lines.length + 1];
        more[0] = '\n';
        System.arraycopy(lines, 0, more, 1, lines.length);
        return more;
    }
}
