/**
 * The pages and the people's API. Promises equal answers for every name until the first proof. May call
 * attempt, delivery, policy, notification, directory and platform.
 */
package dev.entente.service.portal;
