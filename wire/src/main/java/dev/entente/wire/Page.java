package dev.entente.wire;

import dev.entente.core.seal.OrNull;
import java.util.List;

/** A page of a list; {@code after} asks for the next one and is null at the end. */
public record Page<T>(List<T> items, @OrNull String after) {}
