package dev.entente.service.verify.push;

import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.wire.DeviceApi;
import java.util.List;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Registered devices over HTTP; each call is signed by the device's own key. */
@RestController
@RequestMapping("/api/v1/devices")
class DeviceController {
    private final PushDevices devices;

    DeviceController(PushDevices devices) {
        this.devices = devices;
    }

    /** Brings a device's key, by the word of a link that the page shows; once. */
    @Fails({"device-key-missing", "link-used-up"})
    @PostMapping("/registrations")
    @ResponseStatus(HttpStatus.CREATED)
    DeviceApi.Registered register(@RequestBody DeviceApi.Registration registration) {
        if (registration.key() == null) {
            throw Problem.of("device-key-missing");
        }
        return devices.register(registration);
    }

    /** What waits for a device. */
    @Fails("device-unknown")
    @PostMapping("/{id}/requests")
    List<DeviceApi.Request> requests(@PathVariable UUID id, @RequestBody DeviceApi.Signed look) {
        return devices.waiting(id, look.signed());
    }

    /** Approves or denies; 422 if the number is not the one on the page. */
    @Fails({"device-unknown", "number-wrong", "request-over"})
    @PostMapping("/{id}/answers")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void answer(@PathVariable UUID id, @RequestBody DeviceApi.Signed answer) {
        if (!devices.answer(id, answer.signed())) {
            throw Problem.of("number-wrong/device");
        }
    }
}
