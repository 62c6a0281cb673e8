/** Security questions. Owns what people chose and hashes of their answers; promises that no answer is kept bare. */
package dev.entente.service.verify.questions;
