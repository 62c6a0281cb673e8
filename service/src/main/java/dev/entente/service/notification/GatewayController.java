package dev.entente.service.notification;

import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.wire.PhoneApi;
import io.swagger.v3.oas.annotations.Parameter;
import io.swagger.v3.oas.annotations.enums.ParameterIn;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.parameters.RequestBody;
import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Where gateways tell what became of messages; their signature lets them in. */
@RestController
@RequestMapping("/api/v1/gateways")
class GatewayController {
    private static final int LONGEST = 16 * 1024;

    private final PhoneChannel phone;
    private final ServiceSettings settings;

    GatewayController(PhoneChannel phone, ServiceSettings settings) {
        this.phone = phone;
        this.settings = settings;
    }

    /** The state of one message. What is signed are the bytes as they came. */
    @RequestBody(
            required = true,
            content =
                    @Content(
                            mediaType = MediaType.APPLICATION_JSON_VALUE,
                            schema = @Schema(implementation = PhoneApi.MessageState.class)))
    @Parameter(in = ParameterIn.HEADER, name = "Content-Digest", required = true, schema = @Schema(type = "string"))
    @Parameter(in = ParameterIn.HEADER, name = "Signature-Input", required = true, schema = @Schema(type = "string"))
    @Parameter(in = ParameterIn.HEADER, name = "Signature", required = true, schema = @Schema(type = "string"))
    @Fails({"gateway-signature", "gateway-state"})
    @PostMapping("/{name}/states")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void state(@PathVariable String name, HttpServletRequest call) throws IOException {
        var body = call.getInputStream().readNBytes(LONGEST + 1);
        if (body.length > LONGEST) {
            throw Problem.of("gateway-state");
        }
        phone.told(
                name,
                settings.publicUrl().resolve(call.getRequestURI()),
                body,
                call.getHeader("Content-Digest"),
                call.getHeader("Signature-Input"),
                call.getHeader("Signature"));
    }
}
