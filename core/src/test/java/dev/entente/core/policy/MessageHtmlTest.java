package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.ValueSource;

class MessageHtmlTest {
    private static String page(Message message, Map<String, String> values) {
        return message.usual().fill("en", values, Map.of()).html();
    }

    private static String body(String html) {
        return html.substring(html.indexOf("<body>"));
    }

    @ParameterizedTest
    @ValueSource(
            strings = {"<script>alert(1)</script>", "\"><img src=x onerror=alert(1)>", "'&amp;<b>", "[body]{code}"})
    void what_is_filled_in_is_text_and_never_markup(String name) {
        var html = page(Message.CODE, Map.of("name", name, "code", "12345678", "organisation", name));
        assertThat(body(html)).doesNotContain("<script", "<img", "<b>");
        assertThat(html)
                .contains(name.replace("&", "&amp;")
                        .replace("<", "&lt;")
                        .replace(">", "&gt;")
                        .replace("\"", "&quot;")
                        .replace("'", "&#39;"));
    }

    @Test
    void an_attribute_of_the_directory_is_text_as_well() {
        var text = new MessageText(Map.of("en", "Hello"), Map.of("en", "For {attribute.department}: {code}\n"));
        var html = text.fill("en", Map.of("code", "1"), Map.of("department", Set.of("<a href=//evil.test>Deck</a>")))
                .html();
        assertThat(html).contains("&lt;a href=//evil.test&gt;Deck&lt;/a&gt;");
    }

    @Test
    void a_code_stands_by_itself_and_a_link_can_be_touched() {
        assertThat(page(Message.CODE, Map.of("code", "1234 5678"))).contains("<p class=\"code\">1234 5678</p>");
        assertThat(page(Message.PASSWORD_RESET, Map.of("link", "https://recover.skerry.test/not-me#a\"b")))
                .contains("href=\"https://recover.skerry.test/not-me#a&quot;b\">Open the link</a>");
    }

    @Test
    void lines_that_were_wrapped_flow_and_short_ones_end() {
        var html = page(Message.CODE, Map.of("organisation", "Skerry Line"));
        assertThat(html)
                .contains("If you didn&#39;t ask for it, someone typed your name, by mistake or on purpose.")
                .contains("Never tell it to anyone");
        var lines = new MessageText(Map.of("en", "x"), Map.of("en", "Deck\nBridge\n"));
        assertThat(lines.fill("en", Map.of(), Map.of()).html()).contains("<p>Deck<br>Bridge</p>");
    }

    @Test
    void a_daily_list_has_a_line_for_each() {
        var filled = Message.ADMINISTRATOR_DIGEST
                .usual()
                .fill("en", Map.of("list", "- one <b>\n- two", "count", "2 notices"), Map.of());
        assertThat(filled.html()).contains("<ul><li>one &lt;b&gt;</li><li>two</li></ul>");
        assertThat(filled.text()).contains("- one <b>\n- two\n");
        assertThat(filled.subject()).contains("2 notices since yesterday");
    }

    @Test
    void below_the_text_the_reader_can_choose_to_get_fewer() {
        var filled = Message.ACCOUNT_UNLOCKED
                .usual()
                .fill("en", Map.of(MessageText.FEWER, "https://recover.skerry.test/quiet#a\"b"), Map.of());
        assertThat(filled.html())
                .contains("<a href=\"https://recover.skerry.test/quiet#a&quot;b\">Get fewer of these</a>");
        assertThat(filled.text()).endsWith("\nGet fewer of these: https://recover.skerry.test/quiet#a\"b\n");
        assertThat(Message.CODE.usual().fill("en", Map.of(), Map.of()).text()).doesNotContain("fewer");
    }

    @Test
    void in_a_language_without_words_a_link_shows_where_it_leads() {
        var nb = new MessageText(Map.of("nb", "Hei"), Map.of("nb", "{link}\n"));
        assertThat(nb.fill("nb", Map.of("link", "https://recover.skerry.test/link#secret"), Map.of())
                        .html())
                .contains(">https://recover.skerry.test/link</a>");
    }

    /** A reader that fetches something would tell whoever sent it that it was read. */
    @ParameterizedTest
    @EnumSource(Message.class)
    void nothing_is_fetched_and_no_place_is_left(Message message) {
        var html = page(message, Map.of("link", "https://recover.skerry.test/x"));
        assertThat(Stream.of("src=", "url(", "@import", "<link", "<script").filter(html::contains))
                .isEmpty();
        assertThat(body(html)).doesNotContain("{", "}", "[body]", "[foot]", "[organisation]");
    }
}
