/**
 * Security questions: which there are, what an answer has to be, and which are asked. Promises that the same ones are asked until
 * they were answered, and that nothing of them is shown to somebody who has proved nothing yet.
 */
package dev.entente.core.verify.questions;
