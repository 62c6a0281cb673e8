/**
 * Messages to people: a durable outbox whose payload is encrypted and erased after sending, and the alarm links in them. Its face
 * is Notifications.
 *
 * <p>May call: {@code approval}, {@code audit}, {@code platform}.
 */
package dev.entente.service.notification;
