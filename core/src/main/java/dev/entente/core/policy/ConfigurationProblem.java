package dev.entente.core.policy;

/**
 * Something wrong in a configuration file.
 *
 * @param file its path within the folder
 * @param line from 1, or 0 if it concerns the file as a whole
 * @param column from 1, or 0
 * @param pointer where in the document (RFC 6901), empty for the whole
 * @param message a sentence that says what to do
 */
public record ConfigurationProblem(String file, int line, int column, String pointer, String message) {
    @Override
    public String toString() {
        return file + (line > 0 ? ":" + line + ":" + column : "") + ": " + message;
    }
}
